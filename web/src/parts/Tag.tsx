import type { ReactNode } from 'react';

const looks = {
  sea: 'bg-sea-wash text-sea',
  kelp: 'bg-kelp-wash text-kelp',
  amber: 'bg-amber-wash text-amber',
  rust: 'bg-rust-wash text-rust',
  plum: 'bg-plum-wash text-plum',
  soft: 'bg-faint text-soft',
};

export type Tone = keyof typeof looks;

/** A word for a state, on its colour. */
export function Tag({ tone, children }: { tone: Tone; children: ReactNode }) {
  return (
    <span
      className={`inline-block rounded-[2px] px-1.5 text-[11.5px] font-semibold whitespace-nowrap ${looks[tone]}`}
    >
      {children}
    </span>
  );
}
