import { useRef } from 'react';
import {
  useForm,
  type DefaultValues,
  type FieldValues,
  type Path,
  type UseFormReturn,
} from 'react-hook-form';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { api, readRefusal, Refusal, tokenHeader } from '@/api/client';
import type { SetupView } from '@/api/types';
import { Button } from '@/parts/Button';
import { TextArea, TextField } from '@/parts/Field';
import { notify } from '@/parts/Notices';

export interface Props<T> {
  record: T | undefined;
  may: boolean;
  onDone: () => void;
}

/** Saving, with the server’s problems shown at the fields they are about. */
export function useSetupForm<F extends FieldValues>(
  defaults: DefaultValues<F>,
  save: (values: F) => Promise<unknown>,
  onDone: () => void,
  what: string,
) {
  const client = useQueryClient();
  const form = useForm<F>({ defaultValues: defaults });
  const submit = form.handleSubmit(async (values) => {
    try {
      await save(values);
      await client.invalidateQueries({ queryKey: ['setup'] });
      notify({ text: `${what} is saved.` });
      onDone();
    } catch (error) {
      const fields = error instanceof Refusal ? Object.entries(error.fields) : [];
      for (const [field, messages] of fields) {
        form.setError(fieldPath(field) as Path<F>, {
          message: messages[0],
        });
      }
      if (fields.length === 0) form.setError('root', { message: (error as Error).message });
    }
  });
  return { form, submit };
}

export function useRemove(remove: () => Promise<unknown>, onDone: () => void, what: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: remove,
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['setup'] });
      notify({ text: `${what} was removed.` });
      onDone();
    },
  });
}

export function Foot<F extends FieldValues>({
  form,
  may,
  onRemove,
}: {
  form: UseFormReturn<F>;
  may: boolean;
  onRemove?: () => void;
}) {
  const { errors, isSubmitting } = form.formState;
  return (
    <>
      {errors.root && (
        <p role="alert" className="mb-3 font-semibold text-rust">
          {errors.root.message}
        </p>
      )}
      {may ? (
        <div className="flex gap-3">
          <Button kind="main" type="submit" disabled={isSubmitting}>
            Save
          </Button>
          {onRemove && (
            <Button kind="quiet" onClick={onRemove}>
              Remove
            </Button>
          )}
        </div>
      ) : (
        <p className="text-soft">You can look at this but not change it.</p>
      )}
    </>
  );
}

/** Words as people paste them: separated by line breaks, commas or semicolons. */
export function splitWords(text: string): string[] {
  return text
    .split(/[\n,;]+/)
    .map((w) => w.trim())
    .filter((w) => w !== '');
}

/** “Connection.Host” of the server is “connection.host” of the form; an entry of a list stands for the list. */
export const fieldPath = (field: string) =>
  field
    .replace(/\[.*$/, '')
    .split('.')
    .map((part) => part.charAt(0).toLowerCase() + part.slice(1))
    .join('.');

/** Every problem at a field or below it, in one text. */
export function problemsUnder(form: UseFormReturn<never>, field: string): string | undefined {
  const found: string[] = [];
  const collect = (node: unknown) => {
    if (node === null || typeof node !== 'object') return;
    const { message } = node as { message?: unknown };
    if (typeof message === 'string') found.push(message);
    else Object.values(node).forEach(collect);
  };
  collect((form.formState.errors as Record<string, unknown>)[field]);
  return found.length > 0 ? found.join(' ') : undefined;
}

export const problem = (form: UseFormReturn<never>, field: string) =>
  (form.formState.errors as Record<string, { message?: string } | undefined>)[field]?.message;

export function QueueForm({ record, may, onDone }: Props<SetupView['queues'][number]>) {
  const id = record?.id ?? 0;
  const { form, submit } = useSetupForm(
    { name: record?.name ?? '' },
    (v) => api.PUT('/api/setup/queues/{id}', { params: { path: { id } }, body: { id, name: v.name } }),
    onDone,
    'The queue',
  );
  const remove = useRemove(
    () => api.DELETE('/api/setup/queues/{id}', { params: { path: { id } } }),
    onDone,
    'The queue',
  );
  return (
    <form onSubmit={submit}>
      <TextField label="Name" problem={problem(form as never, 'name')} {...form.register('name')} />
      <Foot form={form} may={may} onRemove={id ? () => remove.mutate() : undefined} />
    </form>
  );
}

export function TemplateForm({
  record,
  facts,
  may,
  onDone,
}: Props<SetupView['templates'][number]> & { facts: string[] }) {
  const id = record?.id ?? 0;
  const { form, submit } = useSetupForm(
    { name: record?.name ?? '', body: record?.body ?? '' },
    (v) =>
      api.PUT('/api/setup/templates/{id}', {
        params: { path: { id } },
        body: { id, name: v.name, body: v.body, attachmentName: null },
      }),
    onDone,
    'The template',
  );
  const remove = useRemove(
    () => api.DELETE('/api/setup/templates/{id}', { params: { path: { id } } }),
    onDone,
    'The template',
  );
  return (
    <form onSubmit={submit}>
      <TextField label="Name" problem={problem(form as never, 'name')} {...form.register('name')} />
      <TextArea
        label="Text"
        rows={14}
        problem={problem(form as never, 'body')}
        hint={
          <>
            Values: {[...facts, 'ticket', 'arrived'].map((f) => `{{ ${f} }}`).join('  ')}. Facts must be read
            out on the sheet; <code>ticket</code> stands when the line opens one.
          </>
        }
        {...form.register('body')}
      />
      {id !== 0 && <TemplateFile id={id} name={record?.attachmentName ?? null} may={may} />}
      <Foot form={form} may={may} onRemove={id ? () => remove.mutate() : undefined} />
    </form>
  );
}

function TemplateFile({ id, name, may }: { id: number; name: string | null; may: boolean }) {
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const after = { onSuccess: () => client.invalidateQueries({ queryKey: ['setup'] }) };
  const put = useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.append('file', file);
      const answer = await fetch(`/api/setup/templates/${id}/attachment`, {
        method: 'PUT',
        body: form,
        headers: tokenHeader(),
      });
      if (!answer.ok) throw await readRefusal(answer);
    },
    ...after,
  });
  const remove = useMutation({
    mutationFn: () => api.DELETE('/api/setup/templates/{id}/attachment', { params: { path: { id } } }),
    ...after,
  });
  return (
    <div className="mb-4">
      <label className="caps mb-1 block" htmlFor="template-file">
        File that goes with it
      </label>
      <p className="flex items-center gap-3">
        <span className="break-all">{name ?? 'none'}</span>
        {may && name && (
          <Button kind="quiet" className="!px-0" onClick={() => remove.mutate()}>
            Take it out
          </Button>
        )}
      </p>
      {may && (
        <input
          ref={input}
          id="template-file"
          type="file"
          className="boxed mt-1 w-full py-1"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) put.mutate(file);
            e.target.value = '';
          }}
        />
      )}
    </div>
  );
}

export function DestinationForm({ record, may, onDone }: Props<SetupView['destinations'][number]>) {
  const id = record?.id ?? 0;
  const { form, submit } = useSetupForm(
    { name: record?.name ?? '', url: record?.url ?? 'https://' },
    (v) =>
      api.PUT('/api/setup/destinations/{id}', {
        params: { path: { id } },
        body: { id, name: v.name, url: v.url },
      }),
    onDone,
    'The destination',
  );
  const remove = useRemove(
    () => api.DELETE('/api/setup/destinations/{id}', { params: { path: { id } } }),
    onDone,
    'The destination',
  );
  return (
    <form onSubmit={submit}>
      <TextField label="Name" problem={problem(form as never, 'name')} {...form.register('name')} />
      <TextField
        label="Address"
        className="font-mono"
        problem={problem(form as never, 'url')}
        hint="Facts are sent there as JSON by HTTP POST, with an Idempotency-Key so that a repeat can be told from a new record. Redirects are not followed."
        {...form.register('url')}
      />
      <Foot form={form} may={may} onRemove={id ? () => remove.mutate() : undefined} />
    </form>
  );
}

export function DoNotMailForm({ record, may }: { record: SetupView['doNotMail']; may: boolean }) {
  const { form, submit } = useSetupForm(
    { entries: record.entries.join('\n') },
    (v) => api.PUT('/api/setup/do-not-mail', { body: { entries: splitWords(v.entries) } }),
    () => undefined,
    'The do-not-mail list',
  );
  return (
    <form onSubmit={submit} className="max-w-[520px]">
      <TextArea
        label="Addresses and domains, one to a line"
        rows={12}
        problem={problem(form as never, 'entries')}
        {...form.register('entries')}
      />
      <Foot form={form} may={may} />
    </form>
  );
}
