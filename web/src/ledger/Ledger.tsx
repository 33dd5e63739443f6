import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useDeferredValue, useEffect, useId, useMemo, useRef, useState } from "react";

import { placesChosen, useBench } from "../bench/bench";
import { asksForMenu } from "../bench/menu/asks";
import { partAt } from "../stage/cuts";
import { Chevron } from "../ui/Chevron";
import { Button, OneOf, Select } from "../ui/controls";
import { plural } from "../ui/format";
import { Acts } from "./Acts";
import { countChosen, isChosen, nodesOf, partlyChosen, partsOf } from "./chosen";
import { ColumnChoice } from "./ColumnChoice";
import { type Cell, type Column, isAmong, NARROWED, type Narrowed, sorted, type Sorting, widths } from "./columns";
import { narrowedTo, type Narrowing } from "./facets";
import { Filter } from "./Filter";
import { Grip } from "./Grip";
import { LedgerRow } from "./LedgerRow";
import { type Row, tableRows, treeRows, wornBy } from "./rows";
import { ownTree, renamedParts, sourceTree } from "./trees";
import { useColumns } from "./useColumns";
import { type How, howOf, useGrid } from "./useGrid";

/** Pixels: a row, the head above the rows, the bar above that, and what of the rows is seen at first. */
const [ROW, HEAD, BAR, SEEN] = [27, 26, 38, 134];
const KEPT = "ledger-height";
/** How wide columns are is told by so many of the rows. */
const SAMPLED = 400;
const keptHeight = () => Math.max(SEEN, Number(localStorage.getItem(KEPT)) || SEEN);

/** Parts as table or tree, with their figures and the reason for each decision. */
export function Ledger() {
  const { structure, result, view, setView, locked } = useBench();
  const [text, setText] = useState("");
  const wanted = useDeferredValue(text);
  const [form, setForm] = useState<"table" | "tree" | "own">("table");
  const owned = !!result?.tree;
  const tree = form !== "table";
  const own = form === "own" && owned;
  const [height, setHeight] = useState(keptHeight);
  const [narrowing, setNarrowing] = useState<Narrowing>(new Map());
  const [sorting, setSorting] = useState<Sorting | null>(null);
  const frame = useRef<HTMLElement>(null);
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
  const shelf = mending ? "Mend" : view.open === "Trim" ? "Trim" : "general";
  const { shown: columns, ids, choose: chooseColumns } = useColumns(shelf);
  const parts = narrowed === "all" ? undefined : result?.parts;
  const shape = useMemo(
    () => (structure && (own && result ? ownTree(structure, result) : sourceTree(structure, result))) || undefined,
    [structure, result, own],
  );
  const renamed = useMemo(() => (structure ? renamedParts(structure, result) : new Map()), [structure, result]);
  const left = useMemo(
    () => (structure && result ? narrowedTo(narrowing, structure, result, view.hidden, locked) : null),
    [narrowing, structure, result, view.hidden, locked],
  );
  const rows = useMemo<Row[]>(() => {
    if (!structure || !shape) return [];
    if (tree) return treeRows(shape, open, wanted, left);
    const found = tableRows(structure, worn, names, wanted, renamed).filter((row) => !left || left.has(row.part));
    const made = (part: number) => parts?.[worn.get(part)?.made ?? part];
    return narrowed === "all" ? found : found.filter((row) => isAmong(made(row.part), narrowed));
  }, [structure, shape, tree, worn, names, wanted, open, parts, narrowed, left, renamed]);
  const job = useBench().job;
  const cell = useCallback(
    (row: Row): Cell => {
      const dress = worn.get(row.part);
      const made = result?.parts[dress?.made ?? row.part];
      return { part: structure?.parts[row.part], made, worn: dress, result, tree, job };
    },
    [worn, structure, result, tree, job],
  );
  const ordered = useMemo(() => {
    if (!sorting || tree || !structure) return rows;
    const column = columns.find(({ id }) => id === sorting.by);
    return sorted(rows, sorting, (row) =>
      column?.sort ? column.sort(cell(row)) : sorting.by === "Part" ? row.name : (worn.get(row.part)?.times ?? 0),
    );
  }, [rows, sorting, tree, structure, columns, worn, cell]);
  const counts = useMemo(
    () => (shape && tree ? countChosen(shape, view.chosen, view.places) : null),
    [shape, tree, view.chosen, view.places],
  );
  const partly = useMemo(
    () => (structure && !tree ? partlyChosen(structure.node_parts, view.places) : null),
    [structure, tree, view.places],
  );
  // In a tree names begin farther right the deeper they stand.
  const least = tree ? 230 : 120;
  const template = useMemo(() => {
    const some = rows.filter((row, at) => row.part >= 0 && at % Math.ceil(rows.length / SAMPLED) === 0).map(cell);
    const names = rows.reduce((most, { name, depth }) => Math.max(most, name.length + depth * 2), 0);
    const longest = (column: Column | null) =>
      column ? Math.max(0, ...some.map((one) => String(column.sort?.(one) ?? "").length)) : names;
    return widths(columns, least, longest);
  }, [rows, columns, cell, least]);
  const wide = least + 100 + columns.reduce((sum, { wide }) => sum + wide + 10, 0);
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
    const parts = partsOf(some, shape!, tree);
    const nodes = view.single ? nodesOf(some, shape!, tree, structure!.node_parts) : null;
    const last = some.at(-1)!;
    const at = tree ? shape!.nodeOf(last.key) : structure!.node_parts.indexOf(last.part);
    const node = at < 0 ? null : at;
    setView((now) => {
      if (nodes) {
        const next = new Set(how === "toggle" ? now.places : []);
        const all = [...nodes].every((one) => next.has(one));
        for (const one of nodes)
          if (all) next.delete(one);
          else next.add(one);
        return { ...placesChosen(structure!, next), node };
      }
      if (how !== "toggle") return { chosen: parts, node };
      const next = new Set(now.chosen);
      const all = [...parts].every((part) => next.has(part));
      for (const part of parts)
        if (all) next.delete(part);
        else next.add(part);
      return { chosen: next, node };
    });
  };
  /** The menu of what is chosen; what is pointed at is chosen first, where it is not. */
  const openMenu = (event: React.SyntheticEvent<HTMLElement>, from?: { x: number; y: number }) => {
    event.preventDefault();
    const line = (event.target as HTMLElement).closest<HTMLElement>("[data-line]");
    const at = line ? Number(line.dataset.line) : ordered.findIndex((row) => row.key === grid.active);
    const row = ordered[at];
    if (row && !isChosen(row, view.chosen, counts, partly)) grid.choose(at, "alone");
    // From the keyboard there is no place: the row that keys speak to is one.
    const shown = line ?? scroller.current?.querySelector<HTMLElement>(`[data-line="${at}"]`) ?? scroller.current!;
    const { left, bottom } = shown.getBoundingClientRect();
    setView({ menu: from && from.x > 0 && line ? from : { x: left + 60, y: bottom } });
  };
  const grid = useGrid({
    rows: ordered,
    tree,
    form,
    opened: (row) => open.has(row.key),
    page: Math.floor(height / ROW),
    onOpen: toggle,
    onChoose: choose,
    onShow: (index) => lines.scrollToIndex(index, { align: "auto" }),
  });

  // In a tree, what was pointed at on the stage is opened up to.
  useEffect(() => {
    if (!tree || !shape || view.node === null || !view.chosen.size) return;
    const at = own ? shape.node_parts.findIndex((_, at) => shape.nodeOf(at) === view.node) : view.node;
    const above: number[] = [];
    for (let up = shape.node_parents[at] ?? -1; up >= 0; up = shape.node_parents[up]!) above.push(up);

    if (above.length) setOpen((now) => (above.every((up) => now.has(up)) ? now : new Set([...now, ...above])));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only what is newly pointed at opens
  }, [view.node, form]);

  // What was chosen on the stage comes into view here; what was chosen here is in view already.
  useEffect(() => {
    const first = ordered.findIndex((row) => row.part >= 0 && view.chosen.has(row.part));
    const seen = lines.range;
    const inView = seen && ordered.slice(seen.startIndex, seen.endIndex + 1).some((row) => view.chosen.has(row.part));
    if (first >= 0 && !inView) lines.scrollToIndex(first, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new choice scrolls, not new rows
  }, [view.chosen]);

  return (
    <section ref={frame} aria-label="Ledger" className="relative min-w-0 border-t border-line bg-paper text-[13px]">
      {!folded && (
        <Grip
          height={height}
          least={ROW * 3}
          most={() => (frame.current?.parentElement?.clientHeight ?? 600) - BAR - HEAD - 2}
          onPull={(next) => {
            setHeight(next);
            localStorage.setItem(KEPT, String(next));
          }}
        />
      )}
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
          placeholder="Find; * and ? stand for letters"
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="w-[186px] min-w-[90px] shrink rounded-md border border-field bg-white px-2 py-1 placeholder:text-ink-soft"
        />
        <Filter narrowing={narrowing} onChange={setNarrowing} />
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
        <div className="ml-auto flex shrink-0 items-center gap-1.5">
          <Acts />
          <Button
            on={view.single}
            title={
              view.single
                ? "Single placements are chosen: of a screw just the one that is pointed at"
                : "Whole parts are chosen: of a screw all its placements"
            }
            onClick={() => setView((now) => ({ single: !now.single, chosen: new Set() }))}
          >
            Single
          </Button>
          <ColumnChoice shelf={shelf} ids={ids} onChoose={chooseColumns} />
          <OneOf
            label="Form of the ledger"
            value={own ? "own" : form === "own" ? "tree" : form}
            options={[
              ...(owned ? [{ value: "own" as const, label: "Own" }] : []),
              { value: "tree", label: owned ? "Source" : "Tree" },
              { value: "table", label: "Table" },
            ]}
            onChange={(next) => {
              setForm(next);
              setOpen(new Set([0]));
            }}
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
            grid.active !== null && lines.getVirtualItems().some((line) => ordered[line.index]?.key === grid.active)
              ? `${id}-${grid.active}`
              : undefined
          }
          tabIndex={0}
          onKeyDown={(event) => (asksForMenu(event) ? openMenu(event) : grid.onKeyDown(event))}
          onContextMenu={(event) => openMenu(event, { x: event.clientX, y: event.clientY })}
          className="group overflow-auto overflow-y-scroll outline-none"
          style={{ height: HEAD + height }}
        >
          <div
            role="row"
            className="sticky top-0 z-10 grid items-center gap-x-2.5 border-b border-cloth-deep bg-paper pr-3 pl-3.5 text-[12px] text-ink-soft"
            style={{ height: HEAD, gridTemplateColumns: template, minWidth: wide }}
          >
            <Head by="Part" sorting={sorting} onSort={tree ? undefined : setSorting} />
            <Head by="Placements" right sorting={sorting} onSort={tree ? undefined : setSorting} />
            {columns.map(({ id, head, right, sort }) => (
              <Head
                key={id}
                by={id}
                head={head}
                right={right}
                sorting={sorting}
                onSort={tree || !sort ? undefined : setSorting}
              />
            ))}
          </div>
          {!rows.length && (
            <p role="row" className="px-3.5 py-3 text-ink-soft">
              <span role="gridcell">
                {!structure
                  ? "Parts stand here as soon as the source is read."
                  : narrowed !== "all" && !text
                    ? "No part is among those."
                    : text || left
                      ? left
                        ? "Nothing is left by the filter."
                        : "Nothing has that in its name, layer or material."
                      : "There are no parts."}
              </span>
            </p>
          )}
          <div role="presentation" className="relative" style={{ height: lines.getTotalSize(), minWidth: wide }}>
            {lines.getVirtualItems().map((line) => {
              const row = ordered[line.index]!;
              return (
                <LedgerRow
                  key={row.key}
                  id={`${id}-${row.key}`}
                  columns={columns}
                  grid={template}
                  row={row}
                  top={line.start - HEAD}
                  number={line.index + 2}
                  tree={tree}
                  worn={worn.get(row.part)}
                  partOf={tree && partOf ? (at) => partOf(shape!.nodeOf(at)) : undefined}
                  opened={open.has(row.key)}
                  active={grid.active === row.key}
                  chosen={isChosen(row, view.chosen, counts, partly)}
                  nodeOf={tree ? shape!.nodeOf : undefined}
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

/** The head of a column, which rows can be sorted by: upwards, downwards, and as they came again. */
function Head({
  by,
  head = by,
  right,
  sorting,
  onSort,
}: {
  by: string;
  head?: string;
  right?: boolean;
  sorting: Sorting | null;
  onSort?: (next: Sorting | null) => void;
}) {
  const mine = onSort && sorting?.by === by ? sorting : null;
  const next = !mine ? { by, down: !!right } : mine.down === !!right ? { by, down: !mine.down } : null;
  return (
    <span
      role="columnheader"
      aria-sort={mine ? (mine.down ? "descending" : "ascending") : undefined}
      className={`min-w-0 truncate ${right ? "text-right" : ""}`}
    >
      {onSort ? (
        <button
          type="button"
          tabIndex={-1}
          onClick={() => onSort(next)}
          className={`max-w-full truncate ${mine ? "font-semibold text-ink" : "hover:text-ink"}`}
        >
          {head}
          {mine && (mine.down ? " ↓" : " ↑")}
        </button>
      ) : (
        head
      )}
    </span>
  );
}

/** How many are shown; or what is chosen, only spoken when it changes, for the menu beside it says so too. */
function Said({ rows, tree }: { rows: number; tree: boolean }) {
  const { structure, view } = useBench();
  const places =
    view.places?.size ?? [...view.chosen].reduce((sum, part) => sum + (structure?.parts[part]?.times ?? 0), 0);
  return (
    <span role="status" className={view.chosen.size ? "sr-only" : "min-w-0 truncate text-ink-soft"}>
      {view.chosen.size
        ? view.places
          ? `${plural(places, "placement")} chosen, of ${plural(view.chosen.size, "part")}`
          : `${plural(view.chosen.size, "part")} chosen, ${plural(places, "placement")}`
        : plural(rows, tree ? "row" : "part")}
    </span>
  );
}
