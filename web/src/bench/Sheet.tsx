import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

import { Button } from "../ui/controls";

/** What opens over the bench and has to be closed: a title, a sentence, what it shows, and Close. */
export const Sheet = ({
  title,
  description,
  className,
  children,
}: {
  title: string;
  description: string;
  className: string;
  children: ReactNode;
}) => (
  <Dialog.Portal>
    <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
    <Dialog.Content
      className={`fixed z-50 grid max-h-[75vh] grid-rows-[auto_minmax(0,1fr)_auto] rounded-lg border border-line bg-paper p-5 shadow-xl ${className}`}
    >
      <div className="pb-2">
        <Dialog.Title className="font-name text-[17px] font-semibold">{title}</Dialog.Title>
        <Dialog.Description className="text-ink-soft">{description}</Dialog.Description>
      </div>
      <div tabIndex={0} className="min-h-0 overflow-auto">
        {children}
      </div>
      <Dialog.Close asChild>
        <Button className="mt-3 justify-self-start">Close</Button>
      </Dialog.Close>
    </Dialog.Content>
  </Dialog.Portal>
);
