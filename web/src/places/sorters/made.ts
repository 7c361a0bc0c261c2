import type { SorterLook, SorterView } from '@/api/types';

const share = (value: number, of = 100) => ({
  of,
  value,
  low: Math.max(0, value - 0.03),
  high: Math.min(1, value + 0.03),
});

/** A sorter of two categories for tests. */
export const view: SorterView = {
  id: 4,
  name: 'Harbour desk',
  asksOutside: false,
  settings: {
    categories: [
      {
        id: 'berth',
        name: 'Visitor berth',
        description: 'Asks for a place to moor.',
        cues: ['berth'],
        rightAtLeast: null,
      },
      { id: 'fuel', name: 'Fuel order', description: 'Wants diesel.', cues: [], rightAtLeast: null },
    ],
    rightAtLeast: 0.95,
    costlyMistakes: [],
  },
  number: 2,
  state: 'InHand',
  revision: 3,
  due: false,
  training: null,
  numbers: [number(2, 'InHand'), { ...number(1, 'InUse'), usedSince: '2026-11-20T09:00:00Z' }],
  evaluation: {
    examples: 100,
    accuracy: share(0.93),
    macroF1: 0.92,
    categories: [
      { categoryId: 'berth', examples: 50, precision: share(0.97), recall: share(0.95), f1: 0.96 },
      { categoryId: 'fuel', examples: 30, precision: share(0.8), recall: share(0.7), f1: 0.75 },
      { categoryId: null, examples: 20, precision: share(0.9), recall: share(0.9), f1: 0.9 },
    ],
    confusion: [
      { is: 'berth', said: 'berth', count: 44, unsure: 3 },
      { is: 'berth', said: 'fuel', count: 3, unsure: 0 },
      { is: 'fuel', said: 'fuel', count: 25, unsure: 5 },
      { is: null, said: null, count: 20, unsure: 0 },
    ],
    reliability: [{ from: 0.9, surety: 0.95, right: share(0.94) }],
    calibrationError: 0.018,
    brier: 0.1,
    curve: [
      { floor: 0.9, decided: 0.5, right: share(1, 50) },
      { floor: 0.6, decided: 1, right: share(0.93) },
    ],
    choices: [
      { rightAtLeast: 0.95, decided: 0.88 },
      { rightAtLeast: 0.99, decided: 0 },
    ],
    decided: share(0.88),
    decidedRight: share(0.971),
    doubtful: [7, 8],
    conflicting: 0,
    overlaps: [{ one: 'berth', other: 'fuel', mistaken: 6, examples: 80 }],
    learning: [{ examples: 50, accuracy: 0.85 }],
  },
  floors: { berth: 0.8, fuel: 0.8, '': 0.8 },
  comparison: {
    compared: 90,
    nowRight: 4,
    nowWrong: 1,
    decidedBefore: 0.85,
    macroF1Before: 0.91,
    calibrationErrorBefore: 0.03,
  },
  inUse: null as never,
  examples: { berth: 50, fuel: 30, '': 20 },
  labelsToday: 24,
  advice: ['“Fuel order” has 3 examples; 17 more would help most there.'],
  forecast: { more: 30, accuracy: 0.95, enough: false },
  usedBy: [{ id: 9, name: 'Everything else' }],
};

function number(n: number, state: 'InHand' | 'InUse' | 'Past'): SorterView['numbers'][number] {
  return {
    number: n,
    state,
    changedAt: '2026-11-24T09:00:00Z',
    changedBy: 'Nell',
    trainedAt: '2026-11-24T09:00:01Z',
    trainedOn: 100,
    trainedIn: 800,
    hasModel: true,
    usedSince: null as never,
    usedUntil: null as never,
    problem: null as never,
  };
}

/** A message to label, with the words that spoke for a berth. */
export function look(id: number, subject: string): SorterLook {
  const text = 'Could we have a mooring?';
  return {
    message: {
      id,
      subject,
      from: { name: '', address: 'ann@tern.example' },
      arrivedAt: '2026-11-24T09:00:00Z',
      body: { text, stretches: [{ kind: 'New', start: 0, length: text.length }] },
      attachments: [],
    } as unknown as SorterLook['message'],
    sureties: [
      { categoryId: 'berth', surety: 0.44 },
      { categoryId: 'fuel', surety: 0.41 },
    ],
    explanation: {
      decision: { categoryId: 'berth', surety: 0.44, unsure: true },
      next: 'fuel',
      score: 0.1,
      start: 0,
      spoke: [
        {
          words: 'mooring',
          weight: 0.3,
          evidence: [{ place: 'Body', start: 16, length: 7, text: 'mooring', index: 0 }],
        },
      ],
      rest: -0.2,
    },
  };
}
