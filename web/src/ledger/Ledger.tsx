import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";

import { useBench } from "../bench/bench";
import { Button, OneOf, Swatch } from "../ui/controls";
import { count, metric, plural } from "../ui/format";
import { partAt } from "../stage/cuts";
import { Properties } from "./Properties";
import { type Row, tableRows, treeRows, type Worn, wornBy } from "./rows";

const COLUMNS =
  "grid-cols-[minmax(120px,1.4fr)_56px_minmax(72px,.9fr)_minmax(110px,1fr)_minmax(90px,.9fr)_78px_92px_76px_66px]";

/** Parts as table or tree, with their figures and the reason for each decision. */
export function Ledger() {
  const bench = useBench();
  const { structure, result, view, setView, decisions, decide } = bench;
  const [text, setText] = useState("");
  const [form, setForm] = useState<"table" | "tree">("table");
  const [folded, setFolded] = useState(false);
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set([0]));
  const scroller = useRef<HTMLDivElement>(null);
  const names = useMemo(() => new Map(result?.materials.map((item) => [item.id, item.name])), [result]);
  const worn = useMemo(() => (structure && result ? wornBy(structure, result) : new Map()), [structure, result]);
  const partOf = useMemo(() => structure && result && partAt(structure, result), [structure, result]);
  const rows = useMemo<Row[]>(() => {
    if (!structure) return [];
    return form === "table" ? tableRows(structure, worn, names, text) : treeRows(structure, open, text);
  }, [structure, form, worn, names, text, open]);
  const lines = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 27,
    overscan: 8,
  });

  // What was chosen on the stage comes into view here; what was chosen here is in view already.
  useEffect(() => {
    const first = rows.findIndex((row) => row.part >= 0 && view.chosen.has(row.part));
    if (first >= 0) lines.scrollToIndex(first, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new choice scrolls, not new rows
  }, [view.chosen]);

  const choose = (row: Row, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    const parts = row.part >= 0 ? [row.part] : partsBelow(row);
    setView((now) => {
      const node = form === "tree" ? row.key : structure!.node_parts.indexOf(row.part);
      if (!event.shiftKey && !event.ctrlKey && !event.metaKey) return { chosen: new Set(parts), node };
      const next = new Set(now.chosen);
      for (const part of parts) if (parts.length > 1 || !next.delete(part)) next.add(part);
      return { chosen: next, node };
    });
  };
  const partsBelow = (row: Row): number[] => {
    const found = new Set<number>();
    for (let node = row.key; node <= row.key + row.below; node++) {
      const part = structure!.node_parts[node]!;
      if (part >= 0) found.add(part);
    }
    return [...found];
  };
  const some = view.chosen.size > 0;
  const placesOf = (parts: ReadonlySet<number>) =>
    [...parts].reduce((sum, part) => sum + (structure?.parts[part]?.times ?? 0), 0);
  const refs = [...view.chosen].flatMap((part) => structure?.parts[part]?.ref ?? []);
  const isOut = (ref: string) =>
    decisions.receive.choices.some((choice) => choice.by === "part" && !choice.take && choice.match === ref);
  const allOut = some && refs.every(isOut);
  /** Kept out of the job, and so of what is shipped, unlike what is only hidden from view. */
  const leaveOut = () =>
    decide(
      (now) => {
        const others = now.receive.choices.filter((choice) => choice.by !== "part" || !refs.includes(choice.match));
        const left = allOut ? [] : refs.map((match) => ({ by: "part" as const, match, take: false, source: null }));
        return { ...now, receive: { ...now.receive, choices: [...others, ...left] } };
      },
      `${plural(refs.length, "part")} ${allOut ? "taken again" : "left out"}`,
    );

  return (
    <section aria-label="Ledger" className="min-w-0 border-t border-line bg-paper text-[13px]">
      <div className="flex h-[38px] items-center gap-3 border-b border-line px-3.5">
        <button
          type="button"
          aria-expanded={!folded}
          onClick={() => setFolded((now) => !now)}
          className="font-name flex items-center gap-1.5 rounded text-[14px] font-semibold"
        >
          <span aria-hidden className="text-[9px] text-ink-soft">
            {folded ? "▲" : "▼"}
          </span>{" "}
          Ledger
        </button>
        <input
          aria-label="Find a part, layer, class or material"
          placeholder="Find a part, layer, class…"
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="w-[186px] min-w-[90px] shrink rounded-md border border-line bg-white px-2 py-1 placeholder:text-ink-soft"
        />
        <span className="whitespace-nowrap text-ink-soft">
          {some
            ? `${plural(view.chosen.size, "part")} chosen, ${plural(placesOf(view.chosen), "place")}`
            : plural(rows.length, form === "table" ? "part" : "row")}
        </span>
        <div className="ml-auto flex items-center gap-1.5">
          {some && (
            <>
              <Properties />
              <Button onClick={() => setView((now) => ({ framed: now.framed + 1 }))}>Frame</Button>
              <Button onClick={leaveOut}>{allOut ? "Take again" : "Leave out"}</Button>
              <Button
                onClick={() =>
                  setView((now) => ({ hidden: new Set([...now.hidden, ...now.chosen]), chosen: new Set() }))
                }
              >
                Hide
              </Button>
              <Button
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
        <div role="grid" aria-label="Parts" aria-rowcount={rows.length + 1} className="overflow-x-auto">
          <div
            role="row"
            className={`grid ${COLUMNS} min-w-[840px] gap-x-2.5 border-b border-cloth-deep py-1 pr-[27px] pl-3.5 text-[12px] text-ink-soft`}
          >
            {[
              "Part",
              "Times",
              "Layer, class",
              "Material",
              "Why",
              "Chord error",
              "Triangles each",
              "In all",
              "Off by",
            ].map((name, column) => (
              <span key={name} role="columnheader" className={column === 1 || column > 4 ? "text-right" : ""}>
                {name}
              </span>
            ))}
          </div>
          <div ref={scroller} className="h-[134px] min-w-[840px] overflow-y-scroll">
            {!rows.length && (
              <p className="px-3.5 py-3 text-ink-soft">
                {!structure
                  ? "Parts stand here as soon as the source is read."
                  : text
                    ? "Nothing has that in its name, layer or material."
                    : "There are no parts."}
              </p>
            )}
            <div role="presentation" className="relative" style={{ height: lines.getTotalSize() }}>
              {lines.getVirtualItems().map((line) => {
                const row = rows[line.index]!;
                return (
                  <LedgerRow
                    key={row.key}
                    row={row}
                    top={line.start}
                    number={line.index + 2}
                    tree={form === "tree"}
                    worn={worn.get(row.part)}
                    partOf={form === "tree" ? partOf : undefined}
                    opened={open.has(row.key)}
                    onOpen={() =>
                      setOpen((now) => {
                        const next = new Set(now);
                        if (!next.delete(row.key)) next.add(row.key);
                        return next;
                      })
                    }
                    onChoose={(event) => choose(row, event)}
                  />
                );
              })}
            </div>
          </div>
        </div>
      )}
    </section>
  );
}

function LedgerRow({
  row,
  top,
  number,
  tree,
  worn,
  partOf,
  opened,
  onOpen,
  onChoose,
}: {
  row: Row;
  top: number;
  number: number;
  tree: boolean;
  worn: Worn | undefined;
  /** In the tree, the result's part at a node. */
  partOf: ((node: number) => number) | undefined;
  opened: boolean;
  onOpen: () => void;
  onChoose: (event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
}) {
  const { structure, result, view, setView } = useBench();
  const part = row.part >= 0 ? structure?.parts[row.part] : undefined;
  const made = row.part >= 0 ? result?.parts[partOf?.(row.key) ?? worn?.made ?? row.part] : undefined;
  const material = result?.materials.find((item) => item.id === worn?.materials[0]);
  const chosen = row.part >= 0 && view.chosen.has(row.part);
  const hidden = row.part >= 0 && view.hidden.has(row.part);
  const out = !!part?.surface && !!result && !worn;
  const right = "text-right";
  return (
    <div
      role="row"
      aria-rowindex={number}
      aria-selected={chosen}
      tabIndex={0}
      onClick={onChoose}
      onDoubleClick={() => setView((now) => ({ framed: now.framed + 1 }))}
      onKeyDown={(event) => {
        if (event.key === "Enter" || event.key === " ") {
          event.preventDefault();
          onChoose(event);
        } else if (event.key === "ArrowDown") (event.currentTarget.nextElementSibling as HTMLElement | null)?.focus();
        else if (event.key === "ArrowUp") (event.currentTarget.previousElementSibling as HTMLElement | null)?.focus();
        else if (event.key === "ArrowRight" && row.below && !opened) onOpen();
        else if (event.key === "ArrowLeft" && row.below && opened) onOpen();
      }}
      className={`absolute inset-x-0 grid ${COLUMNS} h-[27px] cursor-default items-center gap-x-2.5 border-b border-cloth-deep pr-3 pl-3.5 -outline-offset-2 select-none ${chosen ? "bg-sea-pale" : "hover:bg-cloth"} ${hidden || out ? "text-ink-soft italic" : ""}`}
      style={{ transform: `translateY(${top}px)` }}
    >
      <span role="gridcell" className="flex min-w-0 items-center" style={{ paddingLeft: row.depth * 14 }}>
        {tree && row.below > 0 && (
          <button
            type="button"
            tabIndex={-1}
            aria-label={`${opened ? "Close" : "Open"} ${row.name}`}
            onClick={(event) => {
              event.stopPropagation();
              onOpen();
            }}
            className="mr-1 w-4 text-[10px]"
          >
            {opened ? "▾" : "▸"}
          </button>
        )}
        <span className="truncate" title={row.name}>
          {row.name}
        </span>
        {out ? (
          <span className="pl-1.5 text-[11.5px]">out</span>
        ) : (
          hidden && <span className="pl-1.5 text-[11.5px]">hidden</span>
        )}
      </span>
      <span role="gridcell" className={right}>
        {part ? count(tree ? 1 : (worn?.times ?? part.times)) : row.below ? count(row.below) : ""}
      </span>
      <span role="gridcell" className={`truncate ${(worn?.layer ?? part?.layer) ? "" : "text-ink-soft"}`}>
        {part ? [worn?.layer ?? part.layer, worn?.kind].filter(Boolean).join(" · ") || "none" : ""}
      </span>
      <span role="gridcell" className="flex min-w-0 items-center gap-1.5">
        {worn?.loose ? (
          <b className="font-semibold text-signal">loose end</b>
        ) : (
          material && (
            <>
              <Swatch colour={material.colour} />
              <span className="truncate">
                {material.name}
                {worn!.materials.length > 1 && ` +${worn!.materials.length - 1}`}
              </span>
            </>
          )
        )}
      </span>
      <span role="gridcell" className="truncate text-ink-soft" title={worn?.why}>
        {worn?.why}
      </span>
      <span
        role="gridcell"
        className={`${right} ${made?.own ? "font-semibold" : ""}`}
        title={made?.own ? "its own" : undefined}
      >
        {part?.surface && made?.mesh ? metric(made.chord) : ""}
      </span>
      <span role="gridcell" className={right}>
        {made?.mesh ? (made.triangles == null ? "…" : count(made.triangles)) : ""}
      </span>
      <span role="gridcell" className={right}>
        {made?.mesh && made.triangles != null ? count(tree ? made.triangles : (worn?.triangles ?? made.triangles)) : ""}
      </span>
      <span role="gridcell" className={right}>
        {made?.mesh && made.off_by != null ? (
          made.failed_faces ? (
            <b className="text-signal">failed</b>
          ) : (
            metric(made.off_by)
          )
        ) : (
          ""
        )}
      </span>
    </div>
  );
}
