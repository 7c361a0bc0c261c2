import { Toast } from 'radix-ui';
import { useSyncExternalStore } from 'react';

interface Notice {
  text: string;
  tone?: 'plain' | 'problem';
  /** Takes the action back. */
  undo?: () => void;
}

let notices: (Notice & { id: number })[] = [];
let listeners: (() => void)[] = [];
let next = 1;

function set(changed: typeof notices) {
  notices = changed;
  listeners.forEach((l) => l());
}

/** Says briefly what happened, with a way back where there is one. */
export function notify(notice: Notice) {
  set([...notices.slice(-3), { ...notice, id: next++ }]);
}

export function Notices() {
  const shown = useSyncExternalStore(
    (l) => {
      listeners.push(l);
      return () => (listeners = listeners.filter((x) => x !== l));
    },
    () => notices,
  );
  return (
    <Toast.Provider swipeDirection="down" duration={7000}>
      {shown.map((n) => (
        <Toast.Root
          key={n.id}
          type={n.tone === 'problem' ? 'foreground' : 'background'}
          onOpenChange={(open) => !open && set(notices.filter((x) => x.id !== n.id))}
          className={`flex items-baseline gap-4 border-l-4 bg-ink px-4 py-2.5 text-paper ${n.tone === 'problem' ? 'border-rust' : 'border-kelp'}`}
        >
          <Toast.Description>{n.text}</Toast.Description>
          {n.undo && (
            <Toast.Action altText="Undo" asChild>
              <button className="font-semibold underline" onClick={n.undo}>
                Undo
              </button>
            </Toast.Action>
          )}
        </Toast.Root>
      ))}
      <Toast.Viewport className="fixed bottom-4 left-1/2 z-50 flex w-[560px] max-w-[90vw] -translate-x-1/2 flex-col gap-2" />
    </Toast.Provider>
  );
}
