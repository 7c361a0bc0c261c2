import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { serve } from '@/test-api';
import { showAt } from '@/test-routed';
import { look, view } from './made';
import { SorterPage } from './SorterPage';

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const path = '/workflows/sorters/$id';
const answers = {
  'GET /api/sorters/4': view,
  'GET /api/sorters/4/next': [look(11, 'First one'), look(12, 'Second one')],
  'GET /api/sorters/4/over-time': { weeks: [], drift: null },
  'PUT /api/sorters/4/labels': { had: false, categoryId: null },
};

function open(more: Record<string, unknown> = {}) {
  const calls = serve({ ...answers, ...more });
  showAt(path, '/workflows/sorters/4', SorterPage);
  return calls;
}

it('says how good it is, what changed, and what would help', async () => {
  open();
  const good = await screen.findByRole('region', { name: 'How good it is' });
  expect(within(good).getByText('88 %')).toBeVisible();
  expect(within(good).getByText('was 85 %')).toBeVisible();
  expect(within(good).getByText('1.8 points')).toBeVisible();
  expect(within(good).getByRole('button', { name: '4 are right now that were wrong' })).toBeVisible();
  expect(within(good).getByText(/Visitor berth and Fuel order \(6 of 80\)/)).toBeVisible();
  const categories = screen.getByRole('region', { name: 'Categories' });
  expect(within(categories).getByText('right 80 %, finds 70 %')).toBeVisible();
  expect(within(categories).getByText(/17 more would help/)).toBeVisible();
  expect(screen.getByText('Number 2 in hand · 100 examples')).toBeVisible();
});

it('messages are labelled with one key, passed over, and a label is taken back', async () => {
  const calls = open();
  expect(await screen.findByText('First one')).toBeVisible();
  expect(screen.getByText('mooring').tagName).toBe('MARK');
  await userEvent.keyboard('2');
  expect(await screen.findByText('Second one')).toBeVisible();
  const labels = () => calls.filter((c) => c.method === 'PUT');
  await vi.waitFor(() => expect(labels()[0]?.body).toEqual({ messageId: 11, categoryId: 'fuel' }));
  await userEvent.keyboard('u');
  await vi.waitFor(() =>
    expect(calls.some((c) => c.method === 'DELETE' && c.path === '/api/sorters/4/labels/11')).toBe(true),
  );
  expect(await screen.findByText('First one')).toBeVisible();
  await userEvent.keyboard('{ArrowRight}');
  expect(await screen.findByText('Second one')).toBeVisible();
  await userEvent.keyboard('0');
  await vi.waitFor(() => expect(labels().at(-1)?.body).toEqual({ messageId: 12, categoryId: null }));
});

it('a cell of the confusion table opens its messages, and a label there can be changed', async () => {
  const calls = open({
    'GET /api/sorters/4/examples': {
      total: 1,
      examples: [
        {
          messageId: 31,
          arrivedAt: '2026-11-20T09:00:00Z',
          senderAddress: 'a@b.example',
          subject: 'Diesel on the pontoon',
          categoryId: 'berth',
          source: 'Labelling',
          by: 'Nell',
          at: '2026-11-21T09:00:00Z',
          prediction: {
            id: 31,
            is: 'berth',
            said: 'fuel',
            surety: 0.83,
            suretyOfIs: 0.1,
            squaredError: 1,
            right: false,
          },
        },
      ],
    },
  });
  await userEvent.click(await screen.findByRole('button', { name: '3: Visitor berth taken for Fuel order' }));
  const panel = await screen.findByRole('dialog');
  expect(await within(panel).findByText('Diesel on the pontoon')).toBeVisible();
  expect(within(panel).getByText('reads like Fuel order, surety 83 %')).toBeVisible();
  expect(calls.at(-1)?.path).toBe('/api/sorters/4/examples?is=berth&said=fuel&unsure=false&from=0');
  await userEvent.selectOptions(within(panel).getByRole('combobox'), 'Fuel order');
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')?.body).toEqual({ messageId: 31, categoryId: 'fuel' }),
  );
});

it('the floor is chosen by how much has to be right', async () => {
  const calls = open({ 'PUT /api/sorters/4/settings': {} });
  const choices = await screen.findByRole('list', { name: 'How much has to be right' });
  expect(within(choices).getByRole('button', { pressed: true })).toHaveTextContent(
    'at 95 % right it decides 88 % by itself',
  );
  await userEvent.click(
    within(choices).getByRole('button', { name: 'at 99 % right it decides nothing yet' }),
  );
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')?.body).toMatchObject({
      number: 2,
      revision: 3,
      settings: { rightAtLeast: 0.99 },
    }),
  );
});

it('a category is described, and what a mistake about it costs', async () => {
  const calls = open({ 'PUT /api/sorters/4/settings': {} });
  await userEvent.click(await screen.findByRole('button', { name: 'Fuel order' }));
  const form = await screen.findByRole('dialog');
  await userEvent.type(within(form).getByLabelText('Cue words'), 'litres, bunkers\nlitres');
  await userEvent.selectOptions(within(form).getByLabelText('Taken for Visitor berth'), '5 times');
  await userEvent.selectOptions(within(form).getByLabelText('Decides by itself if right'), '99 %');
  await userEvent.click(within(form).getByRole('button', { name: 'Save' }));
  await vi.waitFor(() =>
    expect(calls.find((c) => c.method === 'PUT')?.body).toMatchObject({
      settings: {
        categories: [{ id: 'berth' }, { id: 'fuel', cues: ['litres', 'bunkers'], rightAtLeast: 0.99 }],
        costlyMistakes: [{ is: 'fuel', takenFor: 'berth', times: 5 }],
      },
    }),
  );
});

it('a number goes into use by a person, and its rehearsal leads to the workflows that ask it', async () => {
  const calls = open({ 'POST /api/sorters/4/use': {} });
  await userEvent.click(await screen.findByRole('button', { name: 'Rehearse number 2' }));
  expect(await screen.findByRole('link', { name: 'Everything else' })).toHaveAttribute(
    'href',
    '/workflows/9?sorter=in-hand',
  );
  await userEvent.keyboard('{Escape}');
  await userEvent.click(screen.getByRole('button', { name: 'Use number 2' }));
  await vi.waitFor(() => expect(calls.some((c) => c.path === '/api/sorters/4/use?number=2')).toBe(true));
});

it('while it is trained it says how far it is, and cannot be used', async () => {
  open({ 'GET /api/sorters/4': { ...view, due: true, training: { done: 3, of: 8 } } });
  expect(await screen.findByText('training, 3 of 8')).toBeVisible();
  expect(await screen.findByRole('button', { name: 'Use number 2' })).toBeDisabled();
});

it('a new sorter says what to do first', async () => {
  open({
    'GET /api/sorters/4': {
      ...view,
      settings: { ...view.settings, categories: [] },
      evaluation: null,
      comparison: null,
      forecast: null,
      examples: {},
      advice: [],
      numbers: [{ ...view.numbers[0], hasModel: false, trainedAt: null }],
    },
  });
  expect(await screen.findByText(/Add a category and say in a sentence/)).toBeVisible();
  expect(screen.getByText('Add a category first.')).toBeVisible();
});

it('mail that has changed is pointed out, week by week', async () => {
  open({
    'GET /api/sorters/4/over-time': {
      weeks: [
        { monday: '2026-11-16', categoryId: 'berth', decided: 20, corrected: 4, unsure: 2 },
        { monday: '2026-11-16', categoryId: null, decided: 5, corrected: 0, unsure: 1 },
      ],
      drift: {
        corrected: { of: 25, value: 0.16, low: 0.06, high: 0.34 },
        unsure: { of: 28, value: 0.1, low: 0.03, high: 0.27 },
        moreMistakes: true,
        moreDoubt: false,
      },
    },
  });
  const time = await screen.findByRole('region', { name: 'Since it is in use' });
  expect(within(time).getByText(/Mail has changed: 16 % \(6.0 to 34.0\)/)).toBeVisible();
  expect(within(time).getByText('of 20')).toBeVisible();
  expect(within(time).getByRole('row', { name: /Unsure 3/ })).toBeVisible();
});

it('asks back before a sorter goes with its labels, and does not where there are none', async () => {
  const unused = { ...view, usedBy: [], numbers: [view.numbers[0]] };
  const calls = open({ 'GET /api/sorters/4': unused, 'DELETE /api/sorters/4': null });
  const removed = () => calls.some((c) => c.method === 'DELETE');
  await userEvent.click(await screen.findByRole('button', { name: 'Remove' }));
  expect(removed()).toBe(false);
  await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
  await userEvent.click(screen.getByRole('button', { name: 'Remove' }));
  await userEvent.click(screen.getByRole('button', { name: 'Remove with 100 labels' }));
  await vi.waitFor(() => expect(removed()).toBe(true));

  cleanup();
  const more = open({ 'GET /api/sorters/4': { ...unused, examples: {} }, 'DELETE /api/sorters/4': null });
  await userEvent.click(await screen.findByRole('button', { name: 'Remove' }));
  await vi.waitFor(() => expect(more.some((c) => c.method === 'DELETE')).toBe(true));
});
