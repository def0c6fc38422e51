import { Dialog as Radix } from "radix-ui";
import { type ReactNode, useRef } from "react";

type Props = { open: boolean; onOpenChange: (open: boolean) => void; title: string; children: ReactNode };

/** A dialog over the page; when it closes, the focus is again where it was. */
export function Dialog({ open, onOpenChange, title, children }: Props) {
  const before = useRef<Element>(null);
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 bg-black/35" />
        <Radix.Content
          aria-describedby={undefined}
          onOpenAutoFocus={() => {
            before.current = document.activeElement;
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (before.current instanceof HTMLElement || before.current instanceof SVGElement) before.current.focus();
          }}
          className="-translate-x-1/2 fixed top-[12vh] left-1/2 max-h-[76vh] w-[min(34rem,92vw)] overflow-auto rounded-xl border border-rule bg-paper p-5 shadow-xl"
        >
          <Radix.Title className="mb-3 font-bold text-lg">{title}</Radix.Title>
          {children}
          <Radix.Close className="absolute top-4 right-4 rounded px-2 py-1 text-ink-2 text-sm hover:text-ink">
            Close
          </Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
