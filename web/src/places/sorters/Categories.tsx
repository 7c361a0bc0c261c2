import { useState } from 'react';
import { useMay } from '@/api/session';
import type { SorterCategory, SorterView } from '@/api/types';
import { newId } from '../workflows/conditions';
import { CategoryForm } from './CategoryForm';
import type { ExampleChoice } from './ExamplesPanel';
import { Gather } from './Gather';
import { useSaveSettings } from './useSorter';
import { percent } from '@/parts/percent';
import { examples } from './words';

interface Props {
  view: SorterView;
  onOpen: (choice: ExampleChoice) => void;
}

/** The categories with how well each is recognised, and what would make the sorter better. */
export function Categories({ view, onOpen }: Props) {
  const may = useMay('builder');
  const [editing, setEditing] = useState<string | null>(null);
  const [gathering, setGathering] = useState(false);
  const save = useSaveSettings(view);
  const { settings } = view;
  const add = () => {
    const category: SorterCategory = {
      id: newId('s'),
      name: `New category${settings.categories.length === 0 ? '' : ` ${settings.categories.length + 1}`}`,
      description: '',
      cues: [],
      rightAtLeast: null,
    };
    save.mutate(
      { settings: { ...settings, categories: [...settings.categories, category] }, undone: true },
      { onSuccess: () => setEditing(category.id) },
    );
  };
  return (
    <>
      <h2 className="heading mb-1">Categories</h2>
      {settings.categories.length === 0 && (
        <p className="py-2 text-soft">
          Add a category and say in a sentence what belongs there. That alone is enough for first proposals.
        </p>
      )}
      <ul>
        {settings.categories.map((c) => (
          <Row
            key={c.id}
            view={view}
            category={c}
            onEdit={() => setEditing(c.id)}
            onOpen={() => onOpen({ title: c.name, is: c.id })}
          />
        ))}
        <Row view={view} category={null} onOpen={() => onOpen({ title: 'None of these', is: '' })} />
      </ul>
      {may && (
        <p className="mt-1 flex gap-5">
          <button className="link" onClick={add} disabled={save.isPending}>
            Add a category
          </button>
          {settings.categories.length > 0 && (
            <button className="link" onClick={() => setGathering(true)}>
              Bring in examples
            </button>
          )}
        </p>
      )}
      {view.advice.length > 0 && (
        <>
          <h2 className="heading mt-4 border-b border-ink pb-1">What would help</h2>
          <ul>
            {view.advice.slice(0, 6).map((a) => (
              <li key={a} className="border-b border-faint py-1 text-[12.5px] leading-snug">
                {a}
              </li>
            ))}
          </ul>
        </>
      )}
      {(view.evaluation?.doubtful.length ?? 0) > 0 && (
        <>
          <h2 className="heading mt-4 border-b border-ink pb-1">Doubtful examples</h2>
          <p className="pt-1">
            <button
              className="link text-left"
              onClick={() => onOpen({ title: 'Doubtful examples', doubtful: true })}
            >
              {view.evaluation!.doubtful.length}{' '}
              {view.evaluation!.doubtful.length === 1 ? 'example reads' : 'examples read'} like another
              category
            </button>
          </p>
        </>
      )}
      <CategoryForm view={view} categoryId={editing} onClose={() => setEditing(null)} />
      <Gather view={view} open={gathering} onClose={() => setGathering(false)} />
    </>
  );
}

function Row({
  view,
  category,
  onEdit,
  onOpen,
}: {
  view: SorterView;
  category: SorterCategory | null;
  onEdit?: () => void;
  onOpen: () => void;
}) {
  const figures = view.evaluation?.categories.find((f) => (f.categoryId ?? '') === (category?.id ?? ''));
  const count = view.examples[category?.id ?? ''] ?? 0;
  const weak = figures && figures.examples > 0 && figures.f1 < 0.8;
  return (
    <li className="border-b border-line py-2">
      <p className="flex items-baseline gap-2">
        {onEdit ? (
          <button className="press min-w-0 truncate text-left font-semibold hover:underline" onClick={onEdit}>
            {category!.name}
          </button>
        ) : (
          <span className="press font-semibold">None of these</span>
        )}
        <button className="press ml-auto shrink-0 hover:underline" onClick={onOpen}>
          {examples(count)}
        </button>
      </p>
      <p className="text-[12.5px] leading-snug text-soft">
        {category ? category.description || 'No description yet.' : 'Anything else. Stays for a person.'}
      </p>
      {figures && figures.examples > 0 && (
        <>
          <p className="text-[12.5px]">
            right {figures.precision.of > 0 ? percent(figures.precision.value) : '—'}, finds{' '}
            {percent(figures.recall.value)}
          </p>
          <span className="block h-[3px] bg-faint">
            <span
              className={`block h-full ${weak ? 'bg-amber' : 'bg-sea'}`}
              style={{ width: `${Math.round(figures.f1 * 100)}%` }}
            />
          </span>
        </>
      )}
    </li>
  );
}
