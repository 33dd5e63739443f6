import type { ReactNode } from "react";

import type { Job, Part, PartResult, Result } from "../api/client";
import { Swatch } from "../ui/Swatch";
import { count, metric, pixels } from "../ui/format";
import { trianglesOf, type Worn } from "./rows";

/** What a cell is told of its row. */
export interface Cell {
  part: Part | undefined;
  made: PartResult | undefined;
  worn: Worn | undefined;
  result: Result | undefined;
  tree: boolean;
  job: Job;
}

export interface Column {
  head: string;
  right?: boolean;
  /** What is faint, or said whole where it is cut short. */
  faint?: (cell: Cell) => boolean;
  title?: (cell: Cell) => string | undefined;
  show: (cell: Cell) => ReactNode;
  /** What rows are put in order by, where they can be. */
  sort?: (cell: Cell) => string | number;
}

/** By which column rows are in order, and whether the largest come first. */
export interface Sorting {
  by: string;
  down: boolean;
}

/** Rows in the order of what is told of each; what is alike stays as it came. */
export function sorted<T>(rows: readonly T[], { down }: Sorting, told: (row: T) => string | number): T[] {
  const words = new Intl.Collator(undefined, { numeric: true });
  const way = down ? -1 : 1;
  return rows
    .map((row) => ({ row, key: told(row) }))
    .sort((one, two) =>
      typeof one.key === "number" && typeof two.key === "number"
        ? way * (one.key - two.key)
        : way * words.compare(String(one.key), String(two.key)),
    )
    .map(({ row }) => row);
}

/** Columns behind the name and the placements, and how wide each is: of the rungs, and of Mend. */
export interface Columns {
  grid: string;
  list: Column[];
}

const exceptionOf = (numbers: readonly number[] | undefined, rung: string) =>
  numbers?.length ? `by exception ${numbers[0]! + 1} of ${rung}` : undefined;

const LAYER: Column = {
  head: "Layer, class",
  faint: ({ part, worn }) => !(worn?.layer ?? part?.layer),
  show: ({ part, worn }) => (part ? [worn?.layer ?? part.layer, worn?.kind].filter(Boolean).join(" · ") || "none" : ""),
  sort: ({ part, worn }) => [worn?.layer ?? part?.layer, worn?.kind].filter(Boolean).join(" · "),
};

export const GENERAL: Columns = {
  grid: "grid-cols-[minmax(120px,1.4fr)_78px_minmax(72px,.9fr)_minmax(110px,1fr)_minmax(90px,.9fr)_78px_92px_76px_66px]",
  list: [
    LAYER,
    {
      head: "Material",
      sort: ({ worn, result }) => result?.materials.find((item) => item.id === worn?.materials[0])?.name ?? "",
      show: ({ worn, result }) => {
        const material = result?.materials.find((item) => item.id === worn?.materials[0]);
        if (worn?.loose) return <b className="font-semibold text-signal">loose end</b>;
        return (
          material && (
            <span className="flex min-w-0 items-center gap-1.5">
              <Swatch colour={material.colour} />
              <span className="truncate">
                {material.name}
                {worn!.materials.length > 1 && ` +${worn!.materials.length - 1}`}
              </span>
            </span>
          )
        );
      },
    },
    {
      head: "Why",
      sort: ({ worn }) => worn?.why ?? "",
      faint: () => true,
      title: ({ worn }) => worn?.why,
      show: ({ worn }) => worn?.why,
    },
    {
      head: "Chord error",
      sort: ({ made }) => made?.chord ?? 0,
      right: true,
      title: ({ made }) => exceptionOf(made?.facet_by, "Facet"),
      show: ({ part, made }) =>
        part?.surface && made?.mesh ? (
          <span className={made.facet_by.length ? "font-semibold" : ""}>
            {made.chord ? metric(made.chord) : "as it came"}
          </span>
        ) : (
          ""
        ),
    },
    {
      head: "Triangles each",
      sort: ({ made }) => made?.triangles ?? 0,
      right: true,
      show: ({ made }) => (made?.mesh ? (made.triangles == null ? "…" : count(made.triangles)) : ""),
    },
    {
      head: "In all",
      sort: ({ worn, result }) => (worn && result ? (trianglesOf(worn, result) ?? 0) : 0),
      right: true,
      show: ({ made, worn, result, tree }) =>
        made?.mesh && made.triangles != null
          ? count(tree || !worn ? made.triangles : (trianglesOf(worn, result!) ?? made.triangles))
          : "",
    },
    {
      head: "Deviation",
      sort: ({ made }) => made?.off_by ?? 0,
      right: true,
      show: ({ made }) => {
        if (!made?.mesh || made.off_by == null) return "";
        if (made.failed_faces) return <b className="text-signal">failed</b>;
        return made.chord ? metric(made.off_by) : "";
      },
    },
  ],
};

/** A number of something that is wrong: what is nought is not worth a look. */
const flaw = (head: string, kind: string): Column => ({
  head,
  sort: ({ made }) => made?.flaws[kind] ?? 0,
  right: true,
  show: ({ made }) => {
    if (made?.triangles == null) return "";
    if (kind === "crossing" && made.uncounted)
      return <span title="It has too many triangles to look in passing">not counted</span>;
    const found = made.flaws[kind] ?? 0;
    return found ? (
      <b className="font-semibold text-signal">{count(found)}</b>
    ) : (
      <span className="text-ink-soft">0</span>
    );
  },
});

export const MENDING: Columns = {
  grid: "grid-cols-[minmax(100px,1.4fr)_74px_minmax(66px,.9fr)_48px_46px_74px_58px_52px_56px_58px_52px_70px]",
  list: [
    {
      head: "Decided by",
      faint: ({ made }) => !made?.mend_by.length,
      show: ({ part, made, job }) => {
        if (!part?.surface || !made?.mesh) return "";
        const joined = job.decisions.mend.joined.some(({ parts }) => parts.includes(part.ref));
        if (joined) return "joined";
        return made.mend_by.length ? `exception ${made.mend_by.map((number) => number + 1).join(", ")}` : "the job";
      },
    },
    {
      head: "Shells",
      sort: ({ made }) => made?.shells ?? 0,
      right: true,
      show: ({ made }) => (made?.triangles == null ? "" : count(made.shells)),
    },
    flaw("Holes", "holes"),
    flaw("Over-shared", "over-shared"),
    flaw("T-joints", "t-joints"),
    flaw("Double", "duplicate"),
    flaw("No area", "degenerate"),
    flaw("Crossing", "crossing"),
    flaw("Inward", "inward"),
    {
      head: "Watertight",
      right: true,
      show: ({ made }) =>
        made?.watertight == null ? "" : made.watertight ? "yes" : <b className="font-semibold text-signal">no</b>,
    },
  ],
};

export const TRIMMING: Columns = {
  grid: "grid-cols-[minmax(110px,1.4fr)_74px_minmax(80px,1fr)_92px_92px_70px_88px_80px]",
  list: [
    {
      head: "Decided by",
      faint: ({ made }) => !made?.trim_by.length,
      show: ({ part, made }) => {
        if (!part?.surface || !made?.mesh) return "";
        return made.trim_by.length ? `exception ${made.trim_by.map((number) => number + 1).join(", ")}` : "the job";
      },
    },
    {
      head: "Before",
      sort: ({ made }) => made?.before_trim ?? made?.triangles ?? 0,
      right: true,
      show: ({ made }) => (made?.triangles == null ? "" : count(made.before_trim ?? made.triangles)),
    },
    {
      head: "Triangles",
      sort: ({ made }) => made?.triangles ?? 0,
      right: true,
      show: ({ made }) => (made?.triangles == null ? "" : count(made.triangles)),
    },
    {
      head: "Kept",
      right: true,
      faint: ({ made }) => made?.before_trim == null,
      show: ({ made }) =>
        made?.triangles == null
          ? ""
          : `${Number(((100 * made.triangles) / Math.max(1, made.before_trim ?? made.triangles)).toPrecision(3))} %`,
    },
    {
      head: "Deviation",
      sort: ({ made }) => made?.deviation ?? 0,
      right: true,
      title: () => "the largest distance from the mesh before Trim, measured both ways",
      show: ({ made }) => (made?.deviation == null ? "" : metric(made.deviation)),
    },
    {
      head: "In pixels",
      right: true,
      title: () => "the same in the picture of the lookout that Trim names",
      show: ({ made }) => (made?.pixels == null ? "" : pixels(made.pixels)),
    },
  ],
};

/** What the ledger can be narrowed to while Mend is open. */
export const NARROWED = [
  { value: "all", label: "every part" },
  { value: "any", label: "anything wrong" },
  { value: "open", label: "not watertight" },
  { value: "holes", label: "holes" },
  { value: "over-shared", label: "over-shared edges" },
  { value: "t-joints", label: "T-joints" },
  { value: "duplicate", label: "double triangles" },
  { value: "degenerate", label: "no area" },
  { value: "crossing", label: "crossing" },
  { value: "inward", label: "facing inward" },
  { value: "normals", label: "bad normals" },
  { value: "shells", label: "several shells" },
  { value: "own", label: "exceptions" },
] as const;
export type Narrowed = (typeof NARROWED)[number]["value"];

/** Whether a part is one of those. */
export function isAmong(made: PartResult | undefined, wanted: Narrowed): boolean {
  if (wanted === "all") return true;
  if (made?.triangles == null) return false;
  if (wanted === "any") return Object.keys(made.flaws).length > 0 || !!made.inside_out !== made.flipped;
  if (wanted === "open") return !made.watertight;
  if (wanted === "shells") return made.shells > 1;
  if (wanted === "own") return made.mend_by.length > 0;
  if (wanted === "inward") return !!made.flaws.inward || (!!made.watertight && made.inside_out !== made.flipped);
  return !!made.flaws[wanted];
}
