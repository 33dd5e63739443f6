import { useBench } from "../bench/bench";
import { Chevron } from "../ui/Chevron";
import { count } from "../ui/format";
import type { Cell, Column } from "./columns";
import type { Row, Worn } from "./rows";

/** One line of the ledger. */
export function LedgerRow({
  id,
  columns,
  grid,
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
  nodeOf,
}: {
  id: string;
  columns: readonly Column[];
  /** How wide the columns are. */
  grid: string;
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
  /** In a tree, the structure's node that it stands for. */
  nodeOf: ((at: number) => number) | undefined;
  onOpen: () => void;
  onChoose: (event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
}) {
  const { job, structure, result, view, setView, locked } = useBench();
  const part = row.part >= 0 ? structure?.parts[row.part] : undefined;
  const made = row.part >= 0 ? result?.parts[partOf?.(row.key) ?? worn?.made ?? row.part] : undefined;
  const cell: Cell = { part, made, worn, result, tree, job };
  const hidden = row.part >= 0 && (view.hidden.has(row.part) || (!!nodeOf && view.hiddenPlaces.has(nodeOf(row.key))));
  const tied = row.part >= 0 && locked.has(row.part);
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
      data-line={number - 2}
      className={`absolute inset-x-0 grid h-[27px] cursor-default items-center gap-x-2.5 border-b border-cloth-deep pr-3 pl-3.5 select-none ${chosen === true ? "bg-sea-pale" : "hover:bg-cloth"} ${active ? "group-focus-visible:outline-2 group-focus-visible:-outline-offset-2 group-focus-visible:outline-ink" : ""} ${hidden || out ? "text-ink-soft" : ""}`}
      style={{ transform: `translateY(${top}px)`, gridTemplateColumns: grid }}
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
        {tied && <span className="pl-1.5 text-[11.5px] whitespace-nowrap">locked</span>}
        {out ? (
          <span className="pl-1.5 text-[11.5px] whitespace-nowrap">left out</span>
        ) : (
          hidden && <span className="pl-1.5 text-[11.5px]">hidden</span>
        )}
      </span>
      <span role="gridcell" className={right}>
        {part ? count(tree ? 1 : (worn?.times ?? part.times)) : row.below ? count(row.below) : ""}
      </span>
      {columns.map((column) => (
        <span
          key={column.id}
          role="gridcell"
          className={`min-w-0 truncate ${column.right ? "text-right" : ""} ${column.faint?.(cell) ? "text-ink-soft" : ""}`}
          title={column.title?.(cell)}
        >
          {column.show(cell)}
        </span>
      ))}
    </div>
  );
}
