import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { useKeys } from './useKeys';

afterEach(cleanup);

function Keys({ done, dialog }: { done: () => void; dialog?: boolean }) {
  useKeys({ d: done, ArrowDown: done });
  return (
    <>
      <input aria-label="note" />
      {dialog && <div role="dialog" />}
    </>
  );
}

it('a letter acts, whatever its case, and so does an arrow', async () => {
  const done = vi.fn();
  render(<Keys done={done} />);
  await userEvent.keyboard('dD{ArrowDown}x');
  expect(done).toHaveBeenCalledTimes(3);
});

it('nothing acts while somebody types, holds Ctrl or has a dialog open', async () => {
  const done = vi.fn();
  const { rerender } = render(<Keys done={done} />);
  await userEvent.type(screen.getByLabelText('note'), 'd');
  screen.getByLabelText('note').blur();
  await userEvent.keyboard('{Control>}d{/Control}');
  rerender(<Keys done={done} dialog />);
  await userEvent.keyboard('d');
  expect(done).not.toHaveBeenCalled();
});
