import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";

import { Switch } from "../ui/controls";
import { hideChosen, type Look, RUNGS, SHOW_ALL, showOnly, useBench } from "./bench";
import { lock } from "./lock";
import { Sheet } from "./Sheet";

const LOOKS: Record<string, Look> = { j: "shaded", h: "facets", k: "edges", l: "colours", m: "facing" };
const LETTERS: [string, string][] = [
  ["1 … 7", "open a rung"],
  ["J H K L M", "shaded, by facet, edges, colours, facing"],
  ["B", "bring what is chosen into view, or everything"],
  ["N", "hide what is chosen"],
  ["O", "show only what is chosen"],
  ["A", "show everything again"],
  ["T, Shift T", "lock what is chosen, unlock everything"],
  ["I", "choose single placements, or whole parts"],
  ["R", "choose what a box on the stage touches"],
  ["Menu, Shift F10", "what can be done with what is chosen"],
  ["P", "pull the rope: before and after"],
  ["?", "this list"],
];
const OTHERS: [string, string][] = [
  ["Escape", "choose nothing"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
];
const STAGE: [string, string][] = [
  ["arrows", "turn the model"],
  ["Shift arrows", "shift it"],
  ["+ and −", "nearer, farther"],
  ["Home", "everything in view"],
];
const LEDGER: [string, string][] = [
  ["arrows, Page, Home, End", "go through the rows; left and right close and open"],
  ["Enter, Space", "choose the row; with Ctrl add it or take it away"],
  ["Shift arrows, Shift Enter", "choose all from there to here"],
  ["Ctrl A", "choose all rows"],
];
/** Where letters are typed or have a meaning of their own. */
const TYPED_INTO =
  "input, textarea, select, [role=listbox], [role=option], [role=combobox], [role=grid], [role=treegrid], [role=menu]";
const PLACE = "keys";

/** The keyboard, and the list of what it does. Single letters work where nothing that takes letters has the focus. */
export function Shortcuts() {
  const bench = useBench();
  const [open, setOpen] = useState(false);
  const [letters, setLetters] = useState(() => localStorage.getItem(PLACE) !== "off");
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const key = event.key.toLowerCase();
      if (target.closest("input, textarea, select")) return;
      if ((event.ctrlKey || event.metaKey) && key === "z") {
        event.preventDefault();
        if (event.shiftKey ? bench.job.can_redo : bench.job.can_undo) bench.act(event.shiftKey ? "redo" : "undo");
        return;
      }
      // Undo holds on the boards as well; the other keys are for what lies below them.
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest("[role=dialog], [role=menu], [data-board]"))
        return;
      if (key === "escape") return bench.setView((now) => (now.boxing ? { boxing: false } : { chosen: new Set() }));
      if (target.closest(TYPED_INTO) || (!letters && key !== "?")) return;
      const rung = RUNGS[Number(key) - 1];
      const look = LOOKS[key];
      if (key === "?") setOpen(true);
      else if (rung) bench.setView({ open: rung });
      else if (look) bench.setView({ look });
      else if (key === "b") bench.setView((now) => ({ framed: now.framed + 1 }));
      else if (key === "n") bench.setView(hideChosen);
      else if (key === "o") bench.setView((now) => (bench.structure ? showOnly(now, bench.structure) : {}));
      else if (key === "a") bench.setView(SHOW_ALL);
      else if (key === "t") lock(bench, !event.shiftKey);
      else if (key === "i") bench.setView((now) => ({ single: !now.single, chosen: new Set() }));
      else if (key === "r") bench.setView((now) => ({ boxing: !now.boxing }));
      else if (key === "p") bench.setView((now) => ({ compare: !now.compare }));
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, [bench, letters]);
  const switchLetters = (on: boolean) => {
    setLetters(on);
    localStorage.setItem(PLACE, on ? "on" : "off");
  };
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Sheet
        title="Keys"
        description="Single keys work while no field and no list has the focus."
        className="top-1/2 left-1/2 w-[480px] -translate-x-1/2 -translate-y-1/2"
      >
        <label className="flex items-center gap-3 pb-2">
          <Switch label="Single keys" on={letters} onChange={switchLetters} /> Single keys
        </label>
        <Keys list={[...LETTERS, ...OTHERS]} />
        <Keys name="On the stage" list={STAGE} />
        <Keys name="In the ledger" list={LEDGER} />
      </Sheet>
    </Dialog.Root>
  );
}

const Keys = ({ name, list }: { name?: string; list: [string, string][] }) => (
  <>
    {name && <h3 className="font-name pt-3 pb-1 font-semibold">{name}</h3>}
    <dl>
      {list.map(([keys, meaning]) => (
        <div key={keys} className="flex gap-4 border-t border-cloth-deep py-1.5">
          <dt className="w-44 shrink-0 font-semibold">{keys}</dt>
          <dd>{meaning}</dd>
        </div>
      ))}
    </dl>
  </>
);
