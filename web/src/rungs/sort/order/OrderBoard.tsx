import { useState } from "react";

import { Board } from "../../../bench/Board";
import { useBench } from "../../../bench/bench";
import { Button } from "../../../ui/controls";
import { plural } from "../../../ui/format";
import { Joins } from "./Joins";
import { Copies } from "./Copies";
import { Leftovers } from "./Leftovers";
import type { Order, SetOrder } from "./order";
import { Tree } from "./Tree";
import { WhomField, type Whom } from "./WhomField";

type Level = Order["by"][number];
const LEVELS: Level[] = ["material", "layer", "class", "storey", "source", "assembly"];

/** The job's own tree over the source's, what of it is rubbish, and what of it is one mesh when shipped. */
export function OrderBoard({ onClose }: { onClose: () => void }) {
  const { decisions, decide, result, view } = useBench();
  const { order } = decisions.sort;
  const set: SetOrder = (change, label) =>
    decide(
      (now) => ({ ...now, sort: { ...now.sort, order: { ...now.sort.order, ...change(now.sort.order) } } }),
      label,
    );
  const flip = (level: Level) =>
    set(
      ({ by }) => ({ by: by.includes(level) ? by.filter((one) => one !== level) : [...by, level], flat: false }),
      "Grouped otherwise",
    );
  const tree = result?.tree;
  return (
    <Board
      beside
      title="Order"
      description={
        tree
          ? `${plural(tree.ids.length, "group")}, ${plural(result.placements.length, "placement")}. The source's own tree is kept: the ledger shows either.`
          : "All stands as the source has it."
      }
      onClose={onClose}
    >
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)] content-start gap-4 overflow-auto border-r border-line px-4 py-3 text-[13px]">
        <section aria-label="Grouped by" className="grid gap-2">
          <h3 className="font-semibold">Grouped by</h3>
          <div className="flex flex-wrap gap-1.5">
            <Button
              on={!order.by.length && !order.flat}
              onClick={() => set(() => ({ by: [], flat: false }), "Grouped as it came")}
            >
              As it came
            </Button>
            {LEVELS.map((level) => {
              const at = order.by.indexOf(level);
              return (
                <Button key={level} on={at >= 0} onClick={() => flip(level)}>
                  {at >= 0 && order.by.length > 1 ? `${at + 1} ` : ""}
                  {level}
                </Button>
              );
            })}
            <Button on={order.flat} onClick={() => set(({ flat }) => ({ by: [], flat: !flat }), "No groups")}>
              no groups
            </Button>
          </div>
          <p className="text-ink-soft">Several stand in each other, in the order in which they are chosen.</p>
        </section>
        <NewGroup order={order} onSet={set} chosen={view.chosen.size} />
        <Leftovers />
        <Copies />
        <Joins />
      </div>
      <Tree order={order} onSet={set} />
    </Board>
  );
}

/** A group of the job's own, for what is to be picked up together. */
function NewGroup({ order, onSet, chosen }: { order: Order; onSet: SetOrder; chosen: number }) {
  const { structure, view } = useBench();
  const [name, setName] = useState("");
  const parts = [...view.chosen].flatMap((part) => structure?.parts[part]?.ref ?? []);
  const [whom, setWhom] = useState<Whom>(
    chosen && !view.places ? { by: "part", match: parts } : { by: "name", match: ["*"] },
  );
  return (
    <section aria-label="A group of its own" className="grid gap-2">
      <h3 className="font-semibold">What belongs together</h3>
      <form
        className="grid grid-cols-[60px_minmax(0,1fr)_auto] items-center gap-x-2 gap-y-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (!name.trim()) return;
          const taken = new Set(order.groups.map(({ id }) => id));
          let number = order.groups.length + 1;
          while (taken.has(`own:${number}`)) number++;
          const id = `own:${number}`;
          onSet(
            (now) => ({
              groups: [...now.groups, { id, name: name.trim(), parent: "", pivot: null }],
              gathered: [...now.gathered, { whom: { by: whom.by ?? "all", match: whom.match ?? [] }, into: id }],
            }),
            `Group ${name.trim()}`,
          );
          setName("");
        }}
      >
        <span className="text-ink-soft">Name</span>
        <input
          aria-label="Name of the group"
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="min-w-0 rounded-md border border-field bg-white px-2 py-1"
        />
        <button
          type="submit"
          disabled={!name.trim()}
          className="rounded-md border border-ink bg-ink px-2.5 py-1 font-semibold text-white disabled:opacity-45"
        >
          Group
        </button>
        <span className="text-ink-soft">Holds</span>
        <WhomField whom={whom} onChange={setWhom} />
      </form>
    </section>
  );
}
