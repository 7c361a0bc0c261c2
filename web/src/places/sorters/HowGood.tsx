import type { ReactNode } from 'react';
import type { SorterView } from '@/api/types';
import { Confusion } from './Confusion';
import type { ExampleChoice } from './ExamplesPanel';
import { OverTime } from './OverTime';
import { RightAgainstDecided } from './RightAgainstDecided';
import { SuretyAgainstTruth } from './SuretyAgainstTruth';
import { percent } from '@/parts/percent';
import { interval, nameOf } from './words';

interface Props {
  view: SorterView;
  onOpen: (choice: ExampleChoice) => void;
}

/** How good the number in hand is, from what it says about examples it had not seen. */
export function HowGood({ view, onOpen }: Props) {
  const e = view.evaluation;
  const c = view.comparison;
  if (!e || e.examples === 0) {
    return (
      <>
        <h2 className="heading">How good it is</h2>
        <p className="max-w-[58ch] py-3 text-soft">
          {view.settings.categories.length === 0
            ? 'It has no categories yet.'
            : 'It proposes categories from their descriptions and cue words alone, with low surety, and decides nothing by itself. How good it is shows once some messages are labelled: begin on the right.'}
        </p>
        <OverTime view={view} />
      </>
    );
  }
  return (
    <>
      <div className="flex items-baseline gap-4">
        <h2 className="heading">How good it is</h2>
        <span className="text-soft">
          on {e.examples.toLocaleString('en')} examples, each by a model that had not seen it
        </span>
      </div>
      <dl className="grid grid-cols-4 gap-x-4 border-b border-line pt-1 pb-3">
        <Figure name="Decides itself" was={c && percent(c.decidedBefore)}>
          {percent(e.decided.value)}
        </Figure>
        <Figure name="Of those, right" note={e.decidedRight.of > 0 ? interval(e.decidedRight) : undefined}>
          {e.decidedRight.of > 0 ? percent(e.decidedRight.value) : '—'}
        </Figure>
        <Figure name="Macro F1" was={c && c.macroF1Before.toFixed(2)}>
          {e.macroF1.toFixed(2)}
        </Figure>
        <Figure name="Surety off by" was={c && (c.calibrationErrorBefore * 100).toFixed(1)}>
          {(e.calibrationError * 100).toFixed(1)} points
        </Figure>
      </dl>
      <p className="pt-1.5 text-[12.5px] text-soft">
        Right without any floor: {percent(e.accuracy.value, 1)} ({interval(e.accuracy)}).
        {c && (
          <>
            {' '}
            Of {c.compared.toLocaleString('en')} examples both numbers were tried on,{' '}
            <button
              className="press font-semibold text-kelp hover:underline"
              onClick={() => onOpen({ title: 'Right now, wrong before', changedTo: true })}
            >
              {c.nowRight}{' '}
              {c.nowRight === 1 ? 'is right now that was wrong' : 'are right now that were wrong'}
            </button>
            ,{' '}
            <button
              className="press font-semibold text-rust hover:underline"
              onClick={() => onOpen({ title: 'Wrong now, right before', changedTo: false })}
            >
              {c.nowWrong} the other way round
            </button>
            .
          </>
        )}
      </p>
      <div className="grid grid-cols-2 gap-x-6 pt-3">
        <RightAgainstDecided view={view} evaluation={e} />
        <SuretyAgainstTruth evaluation={e} />
      </div>
      <Confusion view={view} evaluation={e} onOpen={onOpen} />
      {e.overlaps.length > 0 && (
        <p className="mt-2 text-[12.5px]">
          <span className="text-soft">Taken for each other: </span>
          {e.overlaps.map((o, i) => (
            <span key={`${o.one} ${o.other}`}>
              {i > 0 && '; '}
              {nameOf(view.settings, o.one)} and {nameOf(view.settings, o.other)} ({o.mistaken} of{' '}
              {o.examples})
            </span>
          ))}
        </p>
      )}
      <OverTime view={view} />
    </>
  );
}

function Figure({
  name,
  was,
  note,
  children,
}: {
  name: string;
  was?: string | null | undefined;
  note?: string | undefined;
  children: ReactNode;
}) {
  return (
    <div>
      <dt className="caps">{name}</dt>
      <dd className="text-[17px] leading-snug font-semibold">
        {children}
        {(was ?? note) && (
          <span className="block text-[12.5px] leading-tight font-normal text-soft">
            {was ? `was ${was}` : note}
          </span>
        )}
      </dd>
    </div>
  );
}
