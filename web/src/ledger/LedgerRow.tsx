import { useBench } from "../bench/bench";
import { Chevron } from "../ui/Chevron";
import { Swatch } from "../ui/Swatch";
import { count, metric } from "../ui/format";
import { type Row, trianglesOf, type Worn } from "./rows";

export const COLUMNS =
  "grid-cols-[minmax(120px,1.4fr)_78px_minmax(72px,.9fr)_minmax(110px,1fr)_minmax(90px,.9fr)_78px_92px_76px_66px]";

/** One line of the ledger. */
export function LedgerRow({
  id,
  row,
  top,
  number,
  tree,
  worn,
  partOf,
  opened,
  active,
  chosen,
  onOpen,
  onChoose,
}: {
  id: string;
  row: Row;
  top: number;
  number: number;
  tree: boolean;
  worn: Worn | undefined;
  /** In the tree, the result's part at a node. */
  partOf: ((node: number) => number) | undefined;
  opened: boolean;
  /** Whether it is the one that keys speak to. */
  active: boolean;
  chosen: boolean | "some";
  onOpen: () => void;
  onChoose: (event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
}) {
  const { structure, result, view, setView } = useBench();
  const part = row.part >= 0 ? structure?.parts[row.part] : undefined;
  const made = row.part >= 0 ? result?.parts[partOf?.(row.key) ?? worn?.made ?? row.part] : undefined;
  const material = result?.materials.find((item) => item.id === worn?.materials[0]);
  const hidden = row.part >= 0 && view.hidden.has(row.part);
  const out = !!part?.surface && !!result && !worn;
  const right = "text-right";
  return (
    <div
      id={id}
      role="row"
      aria-rowindex={number}
      aria-selected={chosen === true}
      aria-level={tree ? row.depth + 1 : undefined}
      aria-expanded={tree && row.below ? opened : undefined}
      onClick={onChoose}
      onDoubleClick={() => setView((now) => ({ framed: now.framed + 1 }))}
      className={`absolute inset-x-0 grid ${COLUMNS} h-[27px] cursor-default items-center gap-x-2.5 border-b border-cloth-deep pr-3 pl-3.5 select-none ${chosen === true ? "bg-sea-pale" : "hover:bg-cloth"} ${active ? "group-focus-visible:outline-2 group-focus-visible:-outline-offset-2 group-focus-visible:outline-ink" : ""} ${hidden || out ? "text-ink-soft" : ""}`}
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
            className="mr-1 grid h-6 w-5 place-content-center"
          >
            <Chevron to={opened ? "down" : "right"} />
          </button>
        )}
        <span className={`truncate ${out ? "line-through" : hidden ? "italic" : ""}`} title={row.name}>
          {row.name}
        </span>
        {chosen === "some" && <span className="pl-1.5 text-[11.5px] whitespace-nowrap text-sea">some chosen</span>}
        {out ? (
          <span className="pl-1.5 text-[11.5px] whitespace-nowrap">left out</span>
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
        {part?.surface && made?.mesh ? (made.chord ? metric(made.chord) : "as it came") : ""}
      </span>
      <span role="gridcell" className={right}>
        {made?.mesh ? (made.triangles == null ? "…" : count(made.triangles)) : ""}
      </span>
      <span role="gridcell" className={right}>
        {made?.mesh && made.triangles != null
          ? count(tree || !worn ? made.triangles : (trianglesOf(worn, result!) ?? made.triangles))
          : ""}
      </span>
      <span role="gridcell" className={right}>
        {made?.mesh && made.off_by != null ? (
          made.failed_faces ? (
            <b className="text-signal">failed</b>
          ) : made.chord ? (
            metric(made.off_by)
          ) : (
            ""
          )
        ) : (
          ""
        )}
      </span>
    </div>
  );
}
