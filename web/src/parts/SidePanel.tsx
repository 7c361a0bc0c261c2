import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';

interface Props {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}

/** A panel over the right edge for what does not fit in place: templates, replies, uploads. */
export function SidePanel({ title, open, onClose, children, wide }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-[#13222c66]" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed inset-y-0 right-0 z-40 flex flex-col overflow-y-auto border-l border-ink bg-paper p-6 ${wide ? 'w-[760px]' : 'w-[460px]'} max-w-[94vw]`}
        >
          <div className="mb-4 flex items-baseline justify-between border-b border-ink pb-2">
            <Dialog.Title className="heading">{title}</Dialog.Title>
            <Dialog.Close className="link">Close</Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
