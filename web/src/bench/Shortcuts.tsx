import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";

import { type Look, RUNGS, useBench } from "./bench";
import { Button } from "../ui/controls";

const LOOKS: Record<string, Look> = { j: "shaded", k: "edges", l: "colours", m: "facing" };
const LIST: [string, string][] = [
  ["1 … 7", "open a rung"],
  ["J K L M", "shaded, edges, colours, facing"],
  ["B", "bring what is chosen into view, or everything"],
  ["N", "hide what is chosen"],
  ["O", "show only what is chosen"],
  ["A", "show everything again"],
  ["P", "pull the rope: before and after"],
  ["Escape", "choose nothing"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["?", "this list"],
];

/** The keyboard, and the list of what it does. */
export function Shortcuts() {
  const bench = useBench();
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input, textarea, select, [role=listbox]")) return;
      const key = event.key.toLowerCase();
      if ((event.ctrlKey || event.metaKey) && key === "z") {
        event.preventDefault();
        if (event.shiftKey ? bench.job.can_redo : bench.job.can_undo) bench.act(event.shiftKey ? "redo" : "undo");
        return;
      }
      // Undo holds on the boards as well; the other keys are for what lies below them.
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest("[role=dialog]")) return;
      const rung = RUNGS[Number(key) - 1];
      const look = LOOKS[key];
      if (key === "?") setOpen(true);
      else if (rung) bench.setView({ open: rung });
      else if (look) bench.setView({ look });
      else if (key === "b") bench.setView((now) => ({ framed: now.framed + 1 }));
      else if (key === "n")
        bench.setView((now) => ({ hidden: new Set([...now.hidden, ...now.chosen]), chosen: new Set() }));
      else if (key === "o")
        bench.setView((now) => ({
          hidden: new Set(
            [...(bench.structure?.parts.keys() ?? [])].filter((part) => now.chosen.size && !now.chosen.has(part)),
          ),
        }));
      else if (key === "a") bench.setView({ hidden: new Set() });
      else if (key === "p") bench.setView((now) => ({ compare: !now.compare }));
      else if (key === "escape") bench.setView({ chosen: new Set() });
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, [bench]);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 w-[420px] -translate-x-1/2 -translate-y-1/2 rounded-lg border border-line bg-paper p-6 shadow-xl"
        >
          <Dialog.Title className="font-name pb-2 text-[17px] font-semibold">Keys</Dialog.Title>
          <dl>
            {LIST.map(([keys, meaning]) => (
              <div key={keys} className="flex gap-4 border-t border-cloth-deep py-1.5">
                <dt className="w-40 font-semibold">{keys}</dt>
                <dd>{meaning}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close asChild>
            <Button className="mt-3">Close</Button>
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
