import type { ComponentProps, ReactNode } from 'react';
import { useId } from 'react';

interface Labelled {
  label: string;
  hint?: ReactNode;
  problem?: string;
}

function Frame({ id, label, hint, problem, children }: Labelled & { id: string; children: ReactNode }) {
  return (
    <div className="mb-3">
      <label htmlFor={id} className="caps mb-1 block">
        {label}
      </label>
      {children}
      {problem ? (
        <p id={`${id}-says`} className="mt-1 font-semibold text-rust">
          {problem}
        </p>
      ) : (
        hint && (
          <p id={`${id}-says`} className="mt-1 text-soft">
            {hint}
          </p>
        )
      )}
    </div>
  );
}

export function TextField({
  label,
  hint,
  problem,
  className = '',
  ...rest
}: Labelled & ComponentProps<'input'>) {
  const id = useId();
  return (
    <Frame {...{ id, label, hint, problem }}>
      <input
        id={id}
        aria-describedby={`${id}-says`}
        aria-invalid={problem ? true : undefined}
        className={`boxed w-full ${className}`}
        {...rest}
      />
    </Frame>
  );
}

export function TextArea({
  label,
  hint,
  problem,
  className = '',
  ...rest
}: Labelled & ComponentProps<'textarea'>) {
  const id = useId();
  return (
    <Frame {...{ id, label, hint, problem }}>
      <textarea
        id={id}
        aria-describedby={`${id}-says`}
        aria-invalid={problem ? true : undefined}
        className={`boxed w-full py-1.5 ${className}`}
        {...rest}
      />
    </Frame>
  );
}

export function SelectField({
  label,
  hint,
  problem,
  className = '',
  ...rest
}: Labelled & ComponentProps<'select'>) {
  const id = useId();
  return (
    <Frame {...{ id, label, hint, problem }}>
      <select id={id} aria-describedby={`${id}-says`} className={`boxed w-full ${className}`} {...rest} />
    </Frame>
  );
}
