import { api } from '@/api/client';
import type { ConditionSet, SetupView } from '@/api/types';
import { TextField } from '@/parts/Field';
import { ConditionEditor } from '@/places/workflows/ConditionEditor';
import { emptySet, newCondition } from '@/places/workflows/conditions';
import { Foot, problem, useRemove, useSetupForm, type Props } from './forms';

/** Conditions under a name, for use on several sheets. */
export function SavedConditionForm({ record, may, onDone }: Props<SetupView['savedConditions'][number]>) {
  const id = record?.id ?? 0;
  const { form, submit } = useSetupForm<{ name: string; description: string; set: ConditionSet }>(
    {
      name: record?.name ?? '',
      description: record?.description ?? '',
      set: (record?.set as ConditionSet | undefined) ?? { ...emptySet, all: [newCondition()] },
    },
    (v) =>
      api.PUT('/api/setup/saved-conditions/{id}', {
        params: { path: { id } },
        body: { id, name: v.name, description: v.description, set: v.set },
      }),
    onDone,
    'The condition',
  );
  const remove = useRemove(
    () => api.DELETE('/api/setup/saved-conditions/{id}', { params: { path: { id } } }),
    onDone,
    'The condition',
  );
  const set = form.watch('set');
  return (
    <form onSubmit={submit}>
      <TextField label="Name" problem={problem(form as never, 'name')} {...form.register('name')} />
      <TextField label="Description" {...form.register('description')} />
      <div className="mb-4">
        <p className="caps mb-1">It holds for</p>
        <ConditionEditor
          set={set}
          onChange={(next) => form.setValue('set', next, { shouldDirty: true })}
          problems={new Map()}
          readOnly={!may}
          saved={false}
        />
        {problem(form as never, 'set') && (
          <p className="font-semibold text-rust">{problem(form as never, 'set')}</p>
        )}
      </div>
      <Foot form={form} may={may} onRemove={id ? () => remove.mutate() : undefined} />
    </form>
  );
}
