import { api } from '@/api/client';
import type { SetupView } from '@/api/types';
import { TextArea, TextField } from '@/parts/Field';
import { Foot, problem, splitWords, useRemove, useSetupForm, type Props } from './forms';

const options = [
  {
    name: 'partsToo',
    label: 'Within longer words too',
    hint: '“berth” then also stands in “berthing” and “unberth”.',
  },
  {
    name: 'endings',
    label: 'With simple English endings',
    hint: '“berth” then also stands for berths, berthed and berthing; “fuel delivery” for fuel deliveries.',
  },
  { name: 'sameCase', label: 'Capital and small letters told apart', hint: '' },
  { name: 'anyAccents', label: 'Accents make no difference', hint: '“Réseau” is then the same as “reseau”.' },
] as const;

/** A keyword list: its words as pasted, and how they are compared. */
export function KeywordListForm({ record, may, onDone }: Props<SetupView['keywordLists'][number]>) {
  const id = record?.id ?? 0;
  const { form, submit } = useSetupForm(
    {
      name: record?.name ?? '',
      description: record?.description ?? '',
      words: record?.words.join('\n') ?? '',
      partsToo: record ? !record.options.wholeWords : false,
      sameCase: record?.options.sameCase ?? false,
      anyAccents: record ? !record.options.sameAccents : false,
      endings: record?.options.endings ?? false,
    },
    (v) =>
      api.PUT('/api/setup/keyword-lists/{id}', {
        params: { path: { id } },
        body: {
          id,
          name: v.name,
          description: v.description,
          words: splitWords(v.words),
          options: {
            wholeWords: !v.partsToo,
            sameCase: v.sameCase,
            sameAccents: !v.anyAccents,
            endings: v.endings && !v.partsToo,
          },
        },
      }),
    onDone,
    'The keyword list',
  );
  const remove = useRemove(
    () => api.DELETE('/api/setup/keyword-lists/{id}', { params: { path: { id } } }),
    onDone,
    'The keyword list',
  );
  const partsToo = form.watch('partsToo');
  return (
    <form onSubmit={submit}>
      <TextField label="Name" problem={problem(form as never, 'name')} {...form.register('name')} />
      <TextField label="Description" {...form.register('description')} />
      <TextArea
        label="Words and phrases"
        rows={14}
        problem={problem(form as never, 'words')}
        hint="Separated by line breaks, commas or semicolons. Repeats are dropped."
        {...form.register('words')}
      />
      <fieldset className="mb-4">
        <legend className="caps mb-1">How they are compared</legend>
        {options.map((o) => (
          <label key={o.name} className="flex items-start gap-2 py-0.5">
            <input
              type="checkbox"
              className="mt-1"
              disabled={!may || (o.name === 'endings' && partsToo)}
              {...form.register(o.name)}
            />
            <span>
              {o.label}
              {o.hint && <span className="block text-[12.5px] text-soft">{o.hint}</span>}
            </span>
          </label>
        ))}
      </fieldset>
      <Foot form={form} may={may} onRemove={id ? () => remove.mutate() : undefined} />
    </form>
  );
}
