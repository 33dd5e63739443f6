import { Popover } from "radix-ui";
import { useState } from "react";

import type { Views } from "../api/client";
import { useBench } from "../bench/bench";
import { Button } from "../ui/controls";

type Lookout = Views["LookoutView"];

/** The views that are kept: looked from, saved, renamed, put in order, updated to what is seen, removed. */
export function LookoutsMenu({ seen, onLook }: { seen: () => Views["Seen"]; onLook: (from: Lookout) => void }) {
  const { result, fit } = useBench();
  const [name, setName] = useState("");
  const lookouts = result?.lookouts ?? [];
  const arrange = (order: number[], names: string[], label: string) => fit({ does: "lookouts", order, names }, label);
  const all = lookouts.map((_, at) => at);
  const moved = (at: number, to: number) => {
    const order = all.filter((other) => other !== at);
    order.splice(to, 0, at);
    arrange(order, [], `${lookouts[at]!.name} moved`);
  };
  const save = () => {
    fit({ does: "lookout", name: name.trim() || `Lookout ${lookouts.length + 1}`, seen: seen() }, "lookout saved");
    setName("");
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>Lookouts{lookouts.length ? ` (${lookouts.length})` : ""}</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={6}
          aria-label="Lookouts"
          className="z-40 grid w-[28rem] gap-2 rounded-md border border-line bg-paper p-3 text-[13px] shadow-lg"
        >
          {!lookouts.length && <p className="text-ink-soft">Views that are kept with the job. None yet.</p>}
          <ol className="grid max-h-72 gap-1 overflow-y-auto">
            {lookouts.map((item, at) => (
              <li key={`${at} ${item.name}`} className="flex items-center gap-1">
                <input
                  aria-label={`Name of lookout ${at + 1}`}
                  defaultValue={item.name}
                  onKeyDown={(event) => {
                    if (event.key === "Enter") event.currentTarget.blur();
                  }}
                  onBlur={(event) => {
                    const next = event.target.value.trim();
                    const names = lookouts.map((other, k) => (k === at ? next : other.name));
                    if (next && next !== item.name) arrange(all, names, `lookout named ${next}`);
                    else event.target.value = item.name;
                  }}
                  className="min-w-0 flex-1 rounded-md border border-transparent bg-transparent px-1.5 py-0.5 hover:border-field focus:border-field focus:bg-white"
                />
                <Button aria-label={`Look from ${item.name}`} onClick={() => onLook(item)}>
                  Look
                </Button>
                <Button
                  quiet
                  className="!px-1"
                  title="Have it see what the stage sees now"
                  aria-label={`Update ${item.name}`}
                  onClick={() => fit({ does: "lookout", name: item.name, at, seen: seen() }, `${item.name} updated`)}
                >
                  Update
                </Button>
                <Button
                  quiet
                  className="!px-1"
                  aria-label={`Up: ${item.name}`}
                  disabled={!at}
                  onClick={() => moved(at, at - 1)}
                >
                  Up
                </Button>
                <Button
                  quiet
                  className="!px-1"
                  aria-label={`Remove ${item.name}`}
                  onClick={() =>
                    arrange(
                      all.filter((other) => other !== at),
                      [],
                      `${item.name} removed`,
                    )
                  }
                >
                  Remove
                </Button>
              </li>
            ))}
          </ol>
          <form
            className="flex gap-1.5 border-t border-dashed border-line pt-2"
            onSubmit={(event) => {
              event.preventDefault();
              save();
            }}
          >
            <input
              aria-label="Name of the new lookout"
              placeholder={`Lookout ${lookouts.length + 1}`}
              value={name}
              onChange={(event) => setName(event.target.value)}
              className="min-w-0 flex-1 rounded-md border border-field bg-white px-1.5 py-0.5"
            />
            <Button main type="submit">
              Keep this view
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
