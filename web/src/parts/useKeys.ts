import { useEffect, useRef } from 'react';

/** Whether a key press belongs to something that takes text. */
function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))
  );
}

/** Single-key actions while nothing is being typed and no dialog is open. */
export function useKeys(keys: Record<string, (() => void) | undefined>) {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target))
        return;
      if (document.querySelector('[role=dialog], [role=menu]')) return;
      const act = latest.current[event.key.length === 1 ? event.key.toLowerCase() : event.key];
      if (act) {
        event.preventDefault();
        act();
      }
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}
