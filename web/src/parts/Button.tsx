import type { ComponentProps, ReactNode } from 'react';

interface Props extends ComponentProps<'button'> {
  /** What it is for: the one main action, an ordinary one, or a quiet one. */
  kind?: 'main' | 'plain' | 'quiet';
  /** The key that does the same, shown on the button. */
  letter?: string;
  children: ReactNode;
}

const looks = {
  main: 'bg-sea text-on-sea border-sea',
  plain: 'bg-sheet border-ink text-ink',
  quiet: 'border-transparent text-sea hover:underline',
};

export function Button({
  kind = 'plain',
  letter,
  children,
  className = '',
  type = 'button',
  ...rest
}: Props) {
  return (
    <button
      type={type}
      aria-keyshortcuts={letter}
      className={`inline-flex items-center justify-center gap-2 rounded-[3px] border px-3 py-1 font-semibold whitespace-nowrap disabled:opacity-50 ${looks[kind]} ${className}`}
      {...rest}
    >
      {children}
      {letter && (
        <kbd className="rounded-[2px] border border-current px-1 font-mono text-[10.5px] leading-[15px] opacity-80">
          {letter.toUpperCase()}
        </kbd>
      )}
    </button>
  );
}
