import { useVirtualizer } from "@tanstack/react-virtual";
import { useDeferredValue, useEffect, useId, useMemo, useRef, useState } from "react";

import { useBench } from "../bench/bench";
import { partAt } from "../stage/cuts";
import { Chevron } from "../ui/Chevron";
import { Button, OneOf, Select } from "../ui/controls";
import { plural } from "../ui/format";
import { countChosen, isChosen, partsOf } from "./chosen";
import { GENERAL, isAmong, MENDING, NARROWED, type Narrowed, TRIMMING } from "./columns";
import { LedgerRow } from "./LedgerRow";
import { Properties } from "./Properties";
import { type Row, tableRows, treeRows, wornBy } from "./rows";
import { type How, howOf, useGrid } from "./useGrid";

/** Pixels: a row, the head above the rows, and what of them is seen at once. */
const [ROW, HEAD, SEEN] = [27, 26, 134];

/** Parts as table or tree, with their figures and the reason for each decision. */
export function Ledger() {
  const { structure, result, view, setView } = useBench();
  const [text, setText] = useState("");
  const wanted = useDeferredValue(text);
  const [form, setForm] = useState<"table" | "tree">("table");
  const tree = form === "tree";
  const [folded, setFolded] = useState(false);
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set([0]));
  const scroller = useRef<HTMLDivElement>(null);
  const id = useId();
  const materials = result?.materials;
  const names = useMemo(() => new Map(materials?.map((item) => [item.id, item.name])), [materials]);
  const worn = useMemo(() => (structure && result ? wornBy(structure, result) : new Map()), [structure, result]);
  const partOf = useMemo(() => structure && result && partAt(structure, result), [structure, result]);
  const mending = view.open === "Mend";
  const [among, setAmong] = useState<Narrowed>("all");
  const narrowed = mending ? among : "all";
  const columns = mending ? MENDING : view.open === "Trim" ? TRIMMING : GENERAL;
  const parts = narrowed === "all" ? undefined : result?.parts;
  const rows = useMemo<Row[]>(() => {
    if (!structure) return [];
    if (tree) return treeRows(structure, open, wanted);
    const found = tableRows(structure, worn, names, wanted);
    const made = (part: number) => parts?.[worn.get(part)?.made ?? part];
    return narrowed === "all" ? found : found.filter((row) => isAmong(made(row.part), narrowed));
  }, [structure, tree, worn, names, wanted, open, parts, narrowed]);
  const counts = useMemo(
    () => (structure && tree ? countChosen(structure, view.chosen) : null),
    [structure, tree, view.chosen],
  );
  const lines = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
    scrollMargin: HEAD,
    scrollPaddingStart: HEAD,
  });
  const toggle = (row: Row) =>
    setOpen((now) => {
      const next = new Set(now);
      if (!next.delete(row.key)) next.add(row.key);
      return next;
    });
  const choose = (some: Row[], how: How) => {
    const parts = partsOf(some, structure!, tree);
    const last = some.at(-1)!;
    const node = tree ? last.key : structure!.node_parts.indexOf(last.part);
    setView((now) => {
      if (how !== "toggle") return { chosen: parts, node };
      const next = new Set(now.chosen);
      const all = [...parts].every((part) => next.has(part));
      for (const part of parts)
        if (all) next.delete(part);
        else next.add(part);
      return { chosen: next, node };
    });
  };
  const grid = useGrid({
    rows,
    tree,
    opened: (row) => open.has(row.key),
    page: Math.floor(SEEN / ROW),
    onOpen: toggle,
    onChoose: choose,
    onShow: (index) => lines.scrollToIndex(index, { align: "auto" }),
  });

  // What was chosen on the stage comes into view here; what was chosen here is in view already.
  useEffect(() => {
    const first = rows.findIndex((row) => row.part >= 0 && view.chosen.has(row.part));
    const seen = lines.range;
    const inView = seen && rows.slice(seen.startIndex, seen.endIndex + 1).some((row) => view.chosen.has(row.part));
    if (first >= 0 && !inView) lines.scrollToIndex(first, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new choice scrolls, not new rows
  }, [view.chosen]);

  return (
    <section aria-label="Ledger" className="min-w-0 border-t border-line bg-paper text-[13px]">
      <div className="flex h-[38px] items-center gap-3 border-b border-line px-3.5">
        <button
          type="button"
          aria-expanded={!folded}
          onClick={() => setFolded((now) => !now)}
          className="font-name flex items-center gap-1.5 rounded text-[14px] font-semibold"
        >
          <Chevron to={folded ? "up" : "down"} className="text-ink-soft" /> Ledger
        </button>
        <input
          aria-label="Find a part, layer, class or material"
          placeholder="Find a part, layer, class…"
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="w-[186px] min-w-[90px] shrink rounded-md border border-field bg-white px-2 py-1 placeholder:text-ink-soft"
        />
        {mending && !tree && (
          <Select
            label="Which parts"
            value={among}
            options={NARROWED}
            onChange={(next) => setAmong(next as Narrowed)}
            className="w-[132px]"
          />
        )}
        <Said rows={rows.length} tree={tree} />
        <div className="ml-auto flex items-center gap-1.5">
          <Acts />
          <OneOf
            label="Form of the ledger"
            value={form}
            options={[
              { value: "tree", label: "Tree" },
              { value: "table", label: "Table" },
            ]}
            onChange={setForm}
          />
        </div>
      </div>
      {!folded && (
        <div
          ref={scroller}
          role={tree ? "treegrid" : "grid"}
          aria-label="Parts"
          aria-rowcount={rows.length + 1}
          aria-multiselectable
          aria-activedescendant={
            grid.active !== null && lines.getVirtualItems().some((line) => rows[line.index]?.key === grid.active)
              ? `${id}-${grid.active}`
              : undefined
          }
          tabIndex={0}
          onKeyDown={grid.onKeyDown}
          className="group overflow-auto overflow-y-scroll outline-none"
          style={{ height: HEAD + SEEN }}
        >
          <div
            role="row"
            className={`sticky top-0 z-10 grid ${columns.grid} min-w-[860px] items-center gap-x-2.5 border-b border-cloth-deep bg-paper pr-3 pl-3.5 text-[12px] text-ink-soft`}
            style={{ height: HEAD }}
          >
            <span role="columnheader">Part</span>
            <span role="columnheader" className="text-right">
              Placements
            </span>
            {columns.list.map(({ head, right }) => (
              <span key={head} role="columnheader" className={right ? "text-right" : ""}>
                {head}
              </span>
            ))}
          </div>
          {!rows.length && (
            <p role="row" className="px-3.5 py-3 text-ink-soft">
              <span role="gridcell">
                {!structure
                  ? "Parts stand here as soon as the source is read."
                  : narrowed !== "all" && !text
                    ? "No part is among those."
                    : text
                      ? "Nothing has that in its name, layer or material."
                      : "There are no parts."}
              </span>
            </p>
          )}
          <div role="presentation" className="relative min-w-[860px]" style={{ height: lines.getTotalSize() }}>
            {lines.getVirtualItems().map((line) => {
              const row = rows[line.index]!;
              return (
                <LedgerRow
                  key={row.key}
                  id={`${id}-${row.key}`}
                  columns={columns}
                  row={row}
                  top={line.start - HEAD}
                  number={line.index + 2}
                  tree={tree}
                  worn={worn.get(row.part)}
                  partOf={tree ? partOf : undefined}
                  opened={open.has(row.key)}
                  active={grid.active === row.key}
                  chosen={isChosen(row, view.chosen, counts)}
                  onOpen={() => toggle(row)}
                  onChoose={(event) => grid.choose(line.index, howOf(event))}
                />
              );
            })}
          </div>
        </div>
      )}
    </section>
  );
}

/** How many are shown, or what is chosen, spoken when it changes. */
function Said({ rows, tree }: { rows: number; tree: boolean }) {
  const { structure, view } = useBench();
  const places = [...view.chosen].reduce((sum, part) => sum + (structure?.parts[part]?.times ?? 0), 0);
  return (
    <span role="status" className="whitespace-nowrap text-ink-soft">
      {view.chosen.size
        ? `${plural(view.chosen.size, "part")} chosen, ${plural(places, "placement")}`
        : plural(rows, tree ? "row" : "part")}
    </span>
  );
}

/** What can be done with what is chosen: to the view, and to what is shipped. */
function Acts() {
  const { structure, view, setView, decisions, decide } = useBench();
  const refs = [...view.chosen].flatMap((part) => structure?.parts[part]?.ref ?? []);
  const left = useMemo(
    () => new Set(decisions.receive.choices.filter((one) => one.by === "part" && !one.take).map((one) => one.match)),
    [decisions.receive.choices],
  );
  const some = view.chosen.size > 0;
  const allOut = some && refs.every((ref) => left.has(ref));
  /** Kept out of the job, and so of what is shipped, unlike what is only hidden from view. */
  const leaveOut = () =>
    decide(
      (now) => {
        const mine = new Set(refs);
        const others = now.receive.choices.filter((choice) => choice.by !== "part" || !mine.has(choice.match));
        const out = allOut ? [] : refs.map((match) => ({ by: "part" as const, match, take: false, source: null }));
        return { ...now, receive: { ...now.receive, choices: [...others, ...out] } };
      },
      `${plural(refs.length, "part")} ${allOut ? "taken again" : "left out"}`,
    );
  return (
    <>
      {some && (
        <>
          <Properties />
          <Button
            className="border-signal text-signal"
            title={allOut ? "They enter the job and are shipped again" : "They stay out of the job and are not shipped"}
            onClick={leaveOut}
          >
            {allOut ? "Ship after all" : "Do not ship"}
          </Button>
          <span aria-hidden className="mx-0.5 h-5 border-l border-line" />
          <Button onClick={() => setView((now) => ({ framed: now.framed + 1 }))}>Frame</Button>
          <Button
            title="From view only; they are shipped all the same"
            onClick={() => setView((now) => ({ hidden: new Set([...now.hidden, ...now.chosen]), chosen: new Set() }))}
          >
            Hide
          </Button>
          <Button
            title="In view only; the others are shipped all the same"
            onClick={() =>
              setView((now) => ({
                hidden: new Set([...structure!.parts.keys()].filter((part) => !now.chosen.has(part))),
              }))
            }
          >
            Show only
          </Button>
        </>
      )}
      {view.hidden.size > 0 && <Button onClick={() => setView({ hidden: new Set() })}>Show all</Button>}
    </>
  );
}
