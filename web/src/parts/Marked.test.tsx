import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, it } from 'vitest';
import { marksOf } from './evidence';
import { Marked } from './Marked';
import { Reasons } from './Reasons';

afterEach(cleanup);

const verdict = {
  reasons: [
    {
      text: 'subject has any word in “Berthing words”',
      evidence: [{ place: 'Subject', start: 0, length: 5, text: 'Berth', index: 0 }],
    },
    { text: 'line 1 fits', evidence: [] },
  ],
} as never;

function Both() {
  const [lit, setLit] = useState<number | null>(null);
  return (
    <>
      <h2>
        <Marked
          text="Berth for <b>Tern</b>"
          place="Subject"
          marks={marksOf(verdict)}
          lit={lit}
          setLit={setLit}
        />
      </h2>
      <Reasons verdict={verdict} lit={lit} setLit={setLit} />
    </>
  );
}

it('pointing at a reason lights its words, and the other way round', async () => {
  render(<Both />);
  const word = screen.getByRole('heading').querySelector('mark')!;
  expect(word).toHaveTextContent('Berth');
  await userEvent.hover(screen.getByText(/has any word in/));
  expect(word).toHaveAttribute('data-lit', 'true');
  await userEvent.unhover(screen.getByText(/has any word in/));
  expect(word).toHaveAttribute('data-lit', 'false');
  await userEvent.hover(word);
  expect(screen.getByText(/has any word in/)).toHaveClass('bg-faint');
});

it('a reason can be reached by keyboard when it rests on words', async () => {
  render(<Both />);
  await userEvent.tab();
  expect(screen.getByRole('heading').querySelector('mark')).toHaveAttribute('data-lit', 'true');
  await userEvent.tab();
  expect(document.body).toHaveFocus();
});

it('what stands in a message is text, never markup', () => {
  render(<Both />);
  expect(screen.getByRole('heading')).toHaveTextContent('Berth for <b>Tern</b>');
  expect(screen.getByRole('heading').querySelector('b')).toBeNull();
});
