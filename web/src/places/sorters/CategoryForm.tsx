import { useState } from 'react';
import type { SorterCategory, SorterSettings, SorterView } from '@/api/types';
import { Button } from '@/parts/Button';
import { SelectField, TextArea, TextField } from '@/parts/Field';
import { SidePanel } from '@/parts/SidePanel';
import { Problem } from '@/parts/States';
import { useSaveSettings } from './useSorter';
import { nameOf } from './words';

const shares = [0.9, 0.95, 0.97, 0.98, 0.99];
const times = [2, 3, 5, 10, 20];

/** A category: what it is called, what belongs there, and what a mistake about it costs. */
export function CategoryForm({
  view,
  categoryId,
  onClose,
}: {
  view: SorterView;
  categoryId: string | null;
  onClose: () => void;
}) {
  const category = view.settings.categories.find((c) => c.id === categoryId);
  return (
    <SidePanel title={category?.name ?? 'Category'} open={category !== undefined} onClose={onClose}>
      {category && <Fields key={category.id} view={view} category={category} onClose={onClose} />}
    </SidePanel>
  );
}

function Fields({
  view,
  category,
  onClose,
}: {
  view: SorterView;
  category: SorterCategory;
  onClose: () => void;
}) {
  const { settings } = view;
  const [draft, setDraft] = useState(category);
  const [cues, setCues] = useState(category.cues.join('\n'));
  const [costs, setCosts] = useState(settings.costlyMistakes);
  const save = useSaveSettings(view);
  const others = settings.categories.filter((c) => c.id !== category.id);
  const store = (next: SorterSettings) => save.mutate({ settings: next }, { onSuccess: onClose });
  const costOf = (takenFor: string | null) =>
    costs.find((m) => m.is === category.id && m.takenFor === takenFor)?.times ?? 1;
  const setCost = (takenFor: string | null, worth: number) =>
    setCosts([
      ...costs.filter((m) => m.is !== category.id || m.takenFor !== takenFor),
      ...(worth > 1 ? [{ is: category.id, takenFor, times: worth }] : []),
    ]);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        const words = [...new Set(cues.split(/[\n,]/).map((w) => w.trim()))].filter((w) => w !== '');
        store({
          ...settings,
          categories: settings.categories.map((c) =>
            c.id === category.id ? { ...draft, name: draft.name.trim(), cues: words } : c,
          ),
          costlyMistakes: costs,
        });
      }}
    >
      <TextField
        label="Name"
        autoFocus
        value={draft.name}
        onChange={(e) => setDraft({ ...draft, name: e.target.value })}
      />
      <TextArea
        label="What belongs there"
        rows={3}
        value={draft.description}
        onChange={(e) => setDraft({ ...draft, description: e.target.value })}
        hint="A sentence or two, in the words people use when they write."
      />
      <TextArea
        label="Cue words"
        rows={3}
        value={cues}
        onChange={(e) => setCues(e.target.value)}
        hint="One to a line or with commas. Each counts as half an example."
      />
      <SelectField
        label="Decides by itself if right"
        value={draft.rightAtLeast ?? ''}
        onChange={(e) =>
          setDraft({ ...draft, rightAtLeast: e.target.value === '' ? null : Number(e.target.value) })
        }
        hint="How much of what is sorted into it without a person has to be right."
      >
        <option value="">as often as the sorter ({Math.round(settings.rightAtLeast * 100)} %)</option>
        {shares.map((s) => (
          <option key={s} value={s}>
            {Math.round(s * 100)} %
          </option>
        ))}
      </SelectField>
      <fieldset className="mb-4">
        <legend className="caps mb-1">When it is taken for another, that counts</legend>
        {[...others.map((c) => c.id), null].map((other) => (
          <label key={other ?? ''} className="flex items-center gap-2 border-b border-faint py-1">
            <span className="flex-1">{nameOf(settings, other)}</span>
            <select
              className="boxed"
              aria-label={`Taken for ${nameOf(settings, other)}`}
              value={costOf(other)}
              onChange={(e) => setCost(other, Number(e.target.value))}
            >
              <option value={1}>like any mistake</option>
              {times.map((t) => (
                <option key={t} value={t}>
                  {t} times
                </option>
              ))}
            </select>
          </label>
        ))}
      </fieldset>
      {save.error && <Problem error={save.error} />}
      <p className="flex items-center gap-4">
        <Button kind="main" type="submit" disabled={save.isPending || draft.name.trim() === ''}>
          Save
        </Button>
        <button
          type="button"
          className="link ml-auto"
          onClick={() =>
            store({
              ...settings,
              categories: others,
              costlyMistakes: costs.filter((m) => m.is !== category.id && m.takenFor !== category.id),
            })
          }
        >
          Remove with its examples
        </button>
      </p>
    </form>
  );
}
