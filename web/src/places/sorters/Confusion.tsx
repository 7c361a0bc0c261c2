import type { SorterEvaluation, SorterView } from '@/api/types';
import type { ExampleChoice } from './ExamplesPanel';
import { nameOf } from './words';

interface Props {
  view: SorterView;
  evaluation: SorterEvaluation;
  onOpen: (choice: ExampleChoice) => void;
}

/** What was taken for what. Each number opens its messages. */
export function Confusion({ view, evaluation, onOpen }: Props) {
  const ids = evaluation.categories.map((c) => c.categoryId ?? '');
  const cell = (is: string, said: string) =>
    evaluation.confusion.find((c) => (c.is ?? '') === is && (c.said ?? '') === said);
  const short = (id: string) => (id === '' ? 'None' : nameOf(view.settings, id));
  return (
    <section aria-label="What was taken for what" className="mt-4">
      <h3 className="heading !text-[16px]">What was taken for what</h3>
      <div className="overflow-x-auto">
        <table className="mt-1 border-collapse">
          <thead>
            <tr className="border-b border-ink">
              <td />
              {ids.map((id) => (
                <th
                  key={id}
                  scope="col"
                  title={nameOf(view.settings, id)}
                  className="max-w-[64px] min-w-[46px] px-0.5 pb-1 align-bottom text-[11px] leading-tight font-semibold break-words text-soft"
                >
                  {short(id)}
                </th>
              ))}
              <th
                scope="col"
                className="min-w-[46px] px-0.5 pb-1 align-bottom text-[11px] font-semibold text-amber"
              >
                unsure
              </th>
            </tr>
          </thead>
          <tbody>
            {ids.map((is) => {
              const unsure = evaluation.confusion
                .filter((c) => (c.is ?? '') === is)
                .reduce((sum, c) => sum + c.unsure, 0);
              return (
                <tr key={is}>
                  <th
                    scope="row"
                    className="max-w-[112px] pr-2 leading-tight text-right text-[12.5px] font-semibold"
                  >
                    {nameOf(view.settings, is)}
                  </th>
                  {ids.map((said) => (
                    <Cell
                      key={said}
                      count={cell(is, said)?.count ?? 0}
                      look={is === said ? 'bg-sea-wash font-semibold' : 'bg-amber-wash'}
                      label={`${nameOf(view.settings, is)} taken for ${nameOf(view.settings, said)}`}
                      onOpen={() =>
                        onOpen({
                          title: `${nameOf(view.settings, is)}, said to be ${nameOf(view.settings, said)}`,
                          is,
                          said,
                          unsure: false,
                        })
                      }
                    />
                  ))}
                  <Cell
                    count={unsure}
                    look="text-amber"
                    label={`${nameOf(view.settings, is)}, unsure`}
                    onOpen={() => onOpen({ title: `${nameOf(view.settings, is)}, unsure`, is, unsure: true })}
                  />
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-[12.5px] text-soft">
        Rows are what a person said, columns what number {view.number} says. Each number opens its messages.
      </p>
    </section>
  );
}

function Cell({
  count,
  look,
  label,
  onOpen,
}: {
  count: number;
  look: string;
  label: string;
  onOpen: () => void;
}) {
  return (
    <td className="border border-faint p-0 text-center">
      {count > 0 && (
        <button
          className={`block h-[26px] w-full hover:underline ${look}`}
          aria-label={`${count}: ${label}`}
          onClick={onOpen}
        >
          {count}
        </button>
      )}
    </td>
  );
}
