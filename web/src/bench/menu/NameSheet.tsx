import { Dialog } from "radix-ui";

import { Button } from "../../ui/controls";

/** Asks for a name, and does something with it. */
export function NameSheet({
  asked,
  onClose,
}: {
  asked: { title: string; label: string; start: string; does: (name: string) => unknown } | null;
  onClose: () => void;
}) {
  return (
    <Dialog.Root open={!!asked} onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/3 left-1/2 z-50 w-[400px] -translate-x-1/2 rounded-lg border border-line bg-paper p-5 shadow-xl"
        >
          <Dialog.Title className="font-name text-[17px] font-semibold">{asked?.title}</Dialog.Title>
          <form
            className="grid gap-3 pt-2 text-[13px]"
            onSubmit={(event) => {
              event.preventDefault();
              const name = String(new FormData(event.currentTarget).get("name") ?? "").trim();
              if (!name) return;
              asked?.does(name);
              onClose();
            }}
          >
            <label className="grid gap-1">
              <span className="text-ink-soft">{asked?.label}</span>
              <input
                name="name"
                required
                maxLength={200}
                defaultValue={asked?.start}
                onFocus={(event) => event.target.select()}
                className="rounded-md border border-field bg-white px-2 py-1"
              />
            </label>
            <div className="flex gap-2">
              <button
                type="submit"
                className="rounded-md border border-ink bg-ink px-2.5 py-1 font-semibold text-white"
              >
                Do it
              </button>
              <Dialog.Close asChild>
                <Button>Cancel</Button>
              </Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
