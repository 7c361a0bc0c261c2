import { useCallback, useEffect, useRef, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { api, body, Refusal } from '@/api/client';
import type { Rehearsal, Sheet, WorkflowView } from '@/api/types';
import { notify } from '@/parts/Notices';

/** Edits within this time are saved and rehearsed together. */
const pause = 80;

export type Span = 30 | 90 | null;

/**
 * The sheet being looked at and changed. Every change is shown at once, saved as the edition in hand, and rehearsed;
 * changes made while a save is on its way follow in the next one.
 */
export function useSheet(view: WorkflowView, span: Span, sorterInHand = false) {
  const client = useQueryClient();
  const [current, setCurrent] = useState(view);
  const [sheet, setSheet] = useState<Sheet>(view.sheet);
  const [rehearsal, setRehearsal] = useState<Rehearsal | null>(null);
  const [state, setState] = useState<'saved' | 'saving' | 'failed'>('saved');
  const [rehearsing, setRehearsing] = useState(true);
  const past = useRef<Sheet[]>([]);
  const future = useRef<Sheet[]>([]);
  const latest = useRef({ sheet: view.sheet, saved: view.sheet, view, busy: false });
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const run = useRef(0);
  const running = useRef<AbortController>(undefined);

  const rehearse = useCallback(async () => {
    const mine = ++run.current;

    // A rehearsal of an older edit is of no use any more; the server stops it.
    running.current?.abort();
    running.current = new AbortController();
    setRehearsing(true);
    try {
      const result = await body(
        api.POST('/api/workflows/{id}/rehearsal', {
          params: {
            path: { id: latest.current.view.id },
            query: { ...(span === null ? {} : { days: span }), sorterInHand },
          },
          signal: running.current.signal,
        }),
      );
      if (mine === run.current) setRehearsal(result as Rehearsal);
    } catch (error) {
      if (mine === run.current) notify({ text: (error as Error).message, tone: 'problem' });
    } finally {
      if (mine === run.current) setRehearsing(false);
    }
  }, [span, sorterInHand]);

  const adopt = useCallback((next: WorkflowView, keepText = false) => {
    latest.current.view = next;
    latest.current.saved = next.sheet;
    setCurrent(next);
    if (!keepText) {
      latest.current.sheet = next.sheet;
      setSheet(next.sheet);
    }
  }, []);

  const save = useCallback(async () => {
    if (latest.current.busy) return;
    latest.current.busy = true;
    while (latest.current.sheet !== latest.current.saved) {
      const sending = latest.current.sheet;
      const { id, number, revision } = latest.current.view;
      setState('saving');
      try {
        const next = (await body(
          api.PUT('/api/workflows/{id}/sheet', {
            params: { path: { id } },
            body: { sheet: sending, number, revision },
          }),
        )) as WorkflowView;
        adopt(next, true);
        latest.current.saved = sending;
        setState('saved');
        void rehearse();
      } catch (error) {
        setState('failed');
        notify({ text: (error as Error).message, tone: 'problem' });
        if (error instanceof Refusal && error.status === 409) {
          adopt((await body(api.GET('/api/workflows/{id}', { params: { path: { id } } }))) as WorkflowView);
          void rehearse();
        }
        break;
      }
    }
    latest.current.busy = false;
    void client.invalidateQueries({ queryKey: ['workflows'], exact: true });
  }, [adopt, client, rehearse]);

  const show = useCallback(
    (next: Sheet) => {
      latest.current.sheet = next;
      setSheet(next);
      clearTimeout(timer.current);
      timer.current = setTimeout(() => void save(), pause);
    },
    [save],
  );

  const change = useCallback(
    (next: Sheet) => {
      past.current = [...past.current.slice(-99), latest.current.sheet];
      future.current = [];
      show(next);
    },
    [show],
  );

  const step = useCallback(
    (from: typeof past, to: typeof past) => {
      const next = from.current.pop();
      if (!next) return;
      to.current.push(latest.current.sheet);
      show(next);
    },
    [show],
  );
  const undo = useCallback(() => step(past, future), [step]);
  const redo = useCallback(() => step(future, past), [step]);

  useEffect(() => void rehearse(), [rehearse]);

  // Leaving the page with a change that has not been sent yet sends it.
  useEffect(() => () => void (latest.current.sheet !== latest.current.saved && save()), [save]);

  const replace = useCallback(
    (next: WorkflowView) => {
      past.current = [];
      future.current = [];
      adopt(next);
      setState('saved');
      void rehearse();
      void client.invalidateQueries({ queryKey: ['workflows'], exact: true });
    },
    [adopt, client, rehearse],
  );

  return {
    view: current,
    sheet,
    change,
    undo,
    redo,
    canUndo: past.current.length > 0,
    canRedo: future.current.length > 0,
    state,
    rehearsal,
    rehearsing,
    replace,
    /** Sends what has not been sent yet. */
    flush: save,
  };
}

export type SheetEditing = ReturnType<typeof useSheet>;
