import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

import { Button } from "../ui/controls";

/** A page over the bench for what needs all the room: a column with what is said, and the sheet beside it. */
export function Board({
  title,
  description,
  onClose,
  children,
}: {
  title: string;
  description: ReactNode;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content className="fixed inset-x-6 inset-y-5 z-50 mx-auto grid max-w-[1500px] grid-cols-[474px_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] overflow-hidden rounded-lg border border-line bg-paper shadow-xl">
          <header className="col-span-2 flex items-baseline gap-4 border-b border-line px-5 py-3">
            <Dialog.Title className="font-name text-[18px] font-semibold">{title}</Dialog.Title>
            <Dialog.Description className="text-[13px] text-ink-soft" aria-live="polite">
              {description}
            </Dialog.Description>
            <Dialog.Close asChild>
              <Button main className="ml-auto">
                Done
              </Button>
            </Dialog.Close>
          </header>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
