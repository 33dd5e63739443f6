import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";

import { placesChosen, type Tool, useBench } from "../../../bench/bench";
import { gather } from "../../../bench/menu/things";
import { useTool } from "../../../bench/useTool";
import { Chevron } from "../../../ui/Chevron";
import { Button, Select } from "../../../ui/controls";
import { count, plural } from "../../../ui/format";
import type { Order, SetOrder } from "./order";

interface Line {
  index: number;
  depth: number;
  below: boolean;
}

/** The groups in their tree: each can be renamed, put into another, or have its level taken away. */
export function Tree({ order, onSet }: { order: Order; onSet: SetOrder }) {
  const bench = useBench();
  const { result, structure, view, setView } = bench;
  const tree = result?.tree;
  const [shut, setShut] = useState<ReadonlySet<string>>(new Set());
  const [picked, setPicked] = useState<string | null>(null);
  const [naming, setNaming] = useState<string | null>(null);
  const [over, setOver] = useState<string | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const lines = useMemo<Line[]>(() => {
    if (!tree) return [];
    const children = new Map<number, number[]>();
    tree.parents.forEach((parent, index) => children.set(parent, [...(children.get(parent) ?? []), index]));
    const found: Line[] = [];
    const walk = (parent: number, depth: number) => {
      for (const index of children.get(parent) ?? []) {
        found.push({ index, depth, below: children.has(index) });
        if (!shut.has(tree.ids[index]!)) walk(index, depth + 1);
      }
    };
    walk(-1, 0);
    return found;
  }, [tree, shut]);
  if (!tree)
    return (
      <p className="px-4 py-3 text-[13px] text-ink-soft">
        No group of the job&apos;s own yet. Choose what to group by, or group what belongs together; the tree then
        stands here.
      </p>
    );
  const at = picked === null ? -1 : tree.ids.indexOf(picked);
  const isOwn = (id: string) => order.groups.some((group) => group.id === id);
  const below = (id: string, other: string): boolean => {
    for (let index = tree.ids.indexOf(other); index >= 0; index = tree.parents[index]!)
      if (tree.ids[index] === id) return true;
    return false;
  };
  const put = (id: string, under: string) => {
    if (id === under || (under && below(id, under))) return;
    onSet(
      (now) =>
        isOwn(id)
          ? { groups: now.groups.map((group) => (group.id === id ? { ...group, parent: under } : group)) }
          : { under: { ...now.under, [id]: under } },
      "A group moved",
    );
  };
  const call = (id: string, name: string) => {
    setNaming(null);
    if (!name.trim() || name === tree.names[tree.ids.indexOf(id)]) return;
    onSet(
      (now) =>
        isOwn(id)
          ? { groups: now.groups.map((group) => (group.id === id ? { ...group, name: name.trim() } : group)) }
          : { called: { ...now.called, [id]: name.trim() } },
      `Group ${name.trim()}`,
    );
  };
  const open = (id: string) => {
    setPicked(null);
    if (isOwn(id))
      onSet((now) => {
        const above = now.groups.find((one) => one.id === id)?.parent ?? "";
        return {
          groups: now.groups
            .filter((group) => group.id !== id)
            .map((group) => (group.parent === id ? { ...group, parent: above } : group)),
          gathered: now.gathered.filter(({ into }) => into !== id),
        };
      }, "Ungrouped");
    else onSet((now) => ({ opened: [...now.opened, id] }), "Ungrouped");
  };
  // Counts hold what stands below too: one that is empty holds no other that is not.
  const empty = tree.ids.filter((id, index) => isOwn(id) && !tree.counts[index]);
  /** Choose the placements below a group, and of those that wholly stand there their parts. */
  const choose = (group: number) => {
    const mine = new Set([group]);
    tree.parents.forEach((parent, index) => mine.has(parent) && mine.add(index));
    const nodes = tree.of.flatMap((at, row) => (mine.has(at) ? [result.placements[row]!] : []));
    setView((now) => ({ ...placesChosen(structure!, nodes), framed: now.framed + 1 }));
  };
  const press = (event: KeyboardEvent) => {
    const here = lines.findIndex(({ index }) => tree.ids[index] === picked);
    const to = { ArrowDown: here + 1, ArrowUp: here - 1, Home: 0, End: lines.length - 1 }[event.key];
    if (to !== undefined && lines[to]) setPicked(tree.ids[lines[to].index]!);
    else if (event.key === "F2" && picked) setNaming(picked);
    else if (event.key === "Delete" && picked) open(picked);
    else if ((event.key === "ArrowLeft" || event.key === "ArrowRight") && picked)
      setShut((now) => {
        const next = new Set(now);
        if (event.key === "ArrowLeft") next.add(picked);
        else next.delete(picked);
        return next;
      });
    else return;
    event.preventDefault();
  };
  const targets = tree.ids.flatMap((id, index) =>
    picked && (id === picked || below(picked, id)) ? [] : [{ value: id, label: tree.names[index]! }],
  );
  return (
    <div className="grid min-h-0 grid-rows-[minmax(0,1fr)_auto] text-[13px]">
      <div
        ref={frame}
        role="tree"
        aria-label="Groups"
        tabIndex={0}
        onKeyDown={press}
        aria-activedescendant={picked ? `group-${at}` : undefined}
        className="min-h-0 overflow-auto px-4 py-2"
      >
        {lines.slice(0, 3000).map(({ index, depth, below: has }) => {
          const id = tree.ids[index]!;
          return (
            <div
              key={id}
              id={`group-${index}`}
              role="treeitem"
              aria-level={depth + 1}
              aria-selected={picked === id}
              aria-expanded={has ? !shut.has(id) : undefined}
              draggable
              onDragStart={(event) => event.dataTransfer.setData("text/group", id)}
              onDragOver={(event) => {
                event.preventDefault();
                setOver(id);
              }}
              onDragLeave={() => setOver(null)}
              onDrop={(event) => {
                event.preventDefault();
                setOver(null);
                const from = event.dataTransfer.getData("text/group");
                if (from) put(from, id);
              }}
              onClick={() => setPicked(id)}
              onDoubleClick={() => setNaming(id)}
              style={{ paddingLeft: 6 + depth * 18 }}
              className={`flex h-7 cursor-default items-center gap-1.5 border-b border-cloth-deep pr-2 ${picked === id || over === id ? "bg-sea-pale" : ""}`}
            >
              <button
                type="button"
                tabIndex={-1}
                aria-label={`${shut.has(id) ? "Open" : "Close"} ${tree.names[index]}`}
                onClick={() =>
                  setShut((now) => {
                    const next = new Set(now);
                    if (!next.delete(id)) next.add(id);
                    return next;
                  })
                }
                className={`grid h-6 w-5 place-content-center ${has ? "" : "invisible"}`}
              >
                <Chevron to={shut.has(id) ? "right" : "down"} />
              </button>
              {naming === id ? (
                <input
                  autoFocus
                  aria-label="Name of the group"
                  defaultValue={tree.names[index]}
                  onBlur={(event) => call(id, event.target.value)}
                  onKeyDown={(event) => {
                    event.stopPropagation();
                    if (event.key === "Escape") {
                      event.preventDefault();
                      event.currentTarget.value = tree.names[index]!;
                    }
                    // Keys speak to the tree again.
                    if (event.key === "Enter" || event.key === "Escape") frame.current?.focus();
                  }}
                  className="min-w-0 flex-1 rounded border border-field bg-white px-1"
                />
              ) : (
                <span
                  className={`min-w-0 flex-1 truncate ${isOwn(id) ? "font-semibold" : ""}`}
                  title={tree.names[index]}
                >
                  {tree.names[index]}
                </span>
              )}
              {tree.pivots[index] && <span className="text-[12px] text-ink-soft">pivot</span>}
              <span className="text-ink-soft tabular-nums">{count(tree.counts[index]!)}</span>
            </div>
          );
        })}
      </div>
      <div className="flex flex-wrap items-center gap-2 border-t border-line px-4 py-2">
        {empty.length > 0 && (
          <Button
            className="order-last ml-auto"
            onClick={() =>
              onSet(
                (now) => ({
                  groups: now.groups.filter(({ id }) => !empty.includes(id)),
                  gathered: now.gathered.filter(({ into }) => !empty.includes(into)),
                }),
                `Dropped ${plural(empty.length, "empty group")}`,
              )
            }
          >
            Drop {plural(empty.length, "empty group")}
          </Button>
        )}
        {at < 0 ? (
          <span className="text-ink-soft">
            Pick a group to rename, move or take its level away. Groups can be dragged.
          </span>
        ) : (
          <>
            <b className="max-w-40 truncate font-semibold">{tree.names[at]}</b>
            <Button onClick={() => setNaming(picked)}>Rename</Button>
            <Select
              label="Move into"
              empty="Move into…"
              value=""
              options={[{ value: "·top", label: "the top" }, ...targets]}
              onChange={(under) => put(picked!, under === "·top" ? "" : under)}
            />
            {isOwn(picked!) && view.chosen.size > 0 && (
              <Button onClick={() => void gather(bench, tree.names[at]!, picked!)}>Take in what is chosen</Button>
            )}
            <Button title="Choose all that stands in it" onClick={() => choose(at)}>
              Choose
            </Button>
            {isOwn(picked!) && <Pivot order={order} id={picked!} onSet={onSet} />}
            <Button onClick={() => open(picked!)}>Ungroup</Button>
          </>
        )}
      </div>
    </div>
  );
}

const TOOL: Tool = {
  id: "pivot",
  need: 1,
  takes: "point",
  hint: ["Point at what the group turns about: a corner, an edge, the centre of a circle"],
};

/** The point that a group turns about: where what is chosen has its middle, or none. */
function Pivot({ order, id, onSet }: { order: Order; id: string; onSet: SetOrder }) {
  const group = order.groups.find((one) => one.id === id)!;
  const set = (pivot: [number, number, number] | null) =>
    onSet(
      (now) => ({ groups: now.groups.map((one) => (one.id === id ? { ...one, pivot } : one)) }),
      pivot ? "A pivot" : "No pivot",
    );
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? (group.pivot ? group.pivot.map((value) => Number(value.toFixed(4))).join(", ") : "");
  const tool = useTool(TOOL);
  const [pick] = tool.picks;
  useEffect(() => {
    if (!pick) return;
    tool.done();
    set(pick.where as [number, number, number]);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each pick
  }, [pick]);
  const keep = () => {
    if (text === null) return;
    const told = text
      .split(/[,;\s]+/)
      .filter(Boolean)
      .map(Number);
    setText(null);
    if (!told.length) set(null);
    else if (told.length === 3 && told.every(Number.isFinite)) set(told as [number, number, number]);
  };
  return (
    <span className="flex items-center gap-1.5">
      <span className="text-ink-soft">Pivot</span>
      <input
        aria-label="Pivot, metres: x, y, z"
        placeholder="x, y, z in m"
        value={shown}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === "Enter" && keep()}
        className="w-32 rounded-md border border-field bg-white px-2 py-1"
      />
      <Button on={tool.active} title="Point at a corner, an edge or a circle's centre on the stage" onClick={tool.ask}>
        {tool.active ? "Stop picking" : "Pick it"}
      </Button>
    </span>
  );
}
