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
  /** What a person's choice of columns is kept by. */
  id: string;
  head: string;
  /** Pixels that it has at least; what it shows in words has more where there is room. */
  wide: number;
  words?: boolean;
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
  const keys = rows.map(told);
  // Words are put in order once each: there are fewer of them than rows, most often.
  const spelt = [...new Set(keys.filter((key) => typeof key === "string"))].sort(words.compare);
  const ranks = new Map(spelt.map((word, rank) => [word, rank]));
  const numbers = keys.map((key) => (typeof key === "number" ? key : ranks.get(key)!));
  return [...rows.keys()].sort((one, two) => way * (numbers[one]! - numbers[two]!)).map((at) => rows[at]!);
}

const exceptionOf = (numbers: readonly number[] | undefined, rung: string) =>
  numbers?.length ? `by exception ${numbers[0]! + 1} of ${rung}` : undefined;

const LAYER: Column = {
  id: "layer",
  head: "Layer, class",
  wide: 72,
  words: true,
  faint: ({ part, worn }) => !(worn?.layer ?? part?.layer),
  show: ({ part, worn }) => (part ? [worn?.layer ?? part.layer, worn?.kind].filter(Boolean).join(" · ") || "none" : ""),
  sort: ({ part, worn }) => [worn?.layer ?? part?.layer, worn?.kind].filter(Boolean).join(" · "),
};

const GENERAL: Column[] = [
  LAYER,
  {
    id: "material",
    head: "Material",
    wide: 110,
    words: true,
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
    id: "why",
    head: "Why",
    wide: 90,
    words: true,
    sort: ({ worn }) => worn?.why ?? "",
    faint: () => true,
    title: ({ worn }) => worn?.why,
    show: ({ worn }) => worn?.why,
  },
  {
    id: "chord",
    head: "Chord error",
    wide: 78,
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
    id: "triangles",
    head: "Triangles each",
    wide: 92,
    sort: ({ made }) => made?.triangles ?? 0,
    right: true,
    show: ({ made }) => (made?.mesh ? (made.triangles == null ? "…" : count(made.triangles)) : ""),
  },
  {
    id: "in-all",
    head: "In all",
    wide: 76,
    sort: ({ worn, result }) => (worn && result ? (trianglesOf(worn, result) ?? 0) : 0),
    right: true,
    show: ({ made, worn, result, tree }) =>
      made?.mesh && made.triangles != null
        ? count(tree || !worn ? made.triangles : (trianglesOf(worn, result!) ?? made.triangles))
        : "",
  },
  {
    id: "deviation",
    head: "Deviation",
    wide: 66,
    sort: ({ made }) => made?.off_by ?? 0,
    right: true,
    show: ({ made }) => {
      if (!made?.mesh || made.off_by == null) return "";
      if (made.failed_faces) return <b className="text-signal">failed</b>;
      return made.chord ? metric(made.off_by) : "";
    },
  },
];

/** A number of something that is wrong: what is nought is not worth a look. */
const flaw = (head: string, kind: string, wide: number): Column => ({
  id: kind,
  head,
  wide,
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

const MENDING: Column[] = [
  {
    id: "mend-by",
    head: "Decided by",
    wide: 66,
    words: true,
    faint: ({ made }) => !made?.mend_by.length,
    show: ({ part, made, job }) => {
      if (!part?.surface || !made?.mesh) return "";
      const joined = job.decisions.mend.joined.some(({ parts }) => parts.includes(part.ref));
      if (joined) return "joined";
      return made.mend_by.length ? `exception ${made.mend_by.map((number) => number + 1).join(", ")}` : "the job";
    },
  },
  {
    id: "shells",
    head: "Shells",
    wide: 48,
    sort: ({ made }) => made?.shells ?? 0,
    right: true,
    show: ({ made }) => (made?.triangles == null ? "" : count(made.shells)),
  },
  flaw("Holes", "holes", 46),
  flaw("Over-shared", "over-shared", 74),
  flaw("T-joints", "t-joints", 58),
  flaw("Double", "duplicate", 52),
  flaw("No area", "degenerate", 56),
  flaw("Crossing", "crossing", 58),
  flaw("Inward", "inward", 52),
  {
    id: "watertight",
    head: "Watertight",
    wide: 70,
    sort: ({ made }) => (made?.watertight == null ? "" : made.watertight ? "yes" : "no"),
    right: true,
    show: ({ made }) =>
      made?.watertight == null ? "" : made.watertight ? "yes" : <b className="font-semibold text-signal">no</b>,
  },
];

const TRIMMING: Column[] = [
  {
    id: "trim-by",
    head: "Decided by",
    wide: 80,
    words: true,
    faint: ({ made }) => !made?.trim_by.length,
    show: ({ part, made }) => {
      if (!part?.surface || !made?.mesh) return "";
      return made.trim_by.length ? `exception ${made.trim_by.map((number) => number + 1).join(", ")}` : "the job";
    },
  },
  {
    id: "before-trim",
    head: "Before",
    wide: 92,
    sort: ({ made }) => made?.before_trim ?? made?.triangles ?? 0,
    right: true,
    show: ({ made }) => (made?.triangles == null ? "" : count(made.before_trim ?? made.triangles)),
  },
  {
    id: "after-trim",
    head: "Triangles",
    wide: 92,
    sort: ({ made }) => made?.triangles ?? 0,
    right: true,
    show: ({ made }) => (made?.triangles == null ? "" : count(made.triangles)),
  },
  {
    id: "kept",
    head: "Kept",
    wide: 70,
    right: true,
    faint: ({ made }) => made?.before_trim == null,
    show: ({ made }) =>
      made?.triangles == null
        ? ""
        : `${Number(((100 * made.triangles) / Math.max(1, made.before_trim ?? made.triangles)).toPrecision(3))} %`,
  },
  {
    id: "trim-deviation",
    head: "Deviation",
    wide: 88,
    sort: ({ made }) => made?.deviation ?? 0,
    right: true,
    title: () => "the largest distance from the mesh before Trim, measured both ways",
    show: ({ made }) => (made?.deviation == null ? "" : metric(made.deviation)),
  },
  {
    id: "pixels",
    head: "In pixels",
    wide: 80,
    right: true,
    title: () => "the same in the picture of the lookout that Trim names",
    show: ({ made }) => (made?.pixels == null ? "" : pixels(made.pixels)),
  },
];

/** What is shown only where somebody asks for it. */
const ASKED: Column[] = [
  {
    id: "longest",
    head: "Longest side",
    wide: 84,
    right: true,
    sort: ({ made }) => made?.sides[0] ?? 0,
    show: ({ part, made }) => (part?.surface && made?.sides[0] ? metric(made.sides[0]) : ""),
    title: ({ made }) => made?.sides.map((side) => metric(side)).join(" × "),
  },
  {
    id: "storey",
    head: "Storey",
    wide: 70,
    words: true,
    sort: ({ worn }) => worn?.storey ?? "",
    show: ({ worn }) => worn?.storey,
  },
  {
    id: "class",
    head: "Class",
    wide: 70,
    words: true,
    sort: ({ worn }) => worn?.kind ?? "",
    show: ({ worn }) => worn?.kind,
  },
  {
    id: "materials",
    head: "Materials",
    wide: 66,
    right: true,
    sort: ({ worn }) => worn?.materials.length ?? 0,
    show: ({ worn }) => (worn ? count(worn.materials.length) : ""),
  },
  {
    id: "vertices",
    head: "Vertices each",
    wide: 88,
    right: true,
    sort: ({ made }) => made?.vertices ?? 0,
    show: ({ made }) => (made?.vertices == null ? "" : count(made.vertices)),
  },
];

/** Every column there is, and those that a rung shows until somebody chooses others. */
export const COLUMNS: readonly Column[] = [...GENERAL, ...ASKED, ...MENDING, ...TRIMMING];
const ids = (columns: Column[]) => columns.map(({ id }) => id);
export type Shelf = "general" | "Mend" | "Trim";
export const USUAL: Record<Shelf, string[]> = { general: ids(GENERAL), Mend: ids(MENDING), Trim: ids(TRIMMING) };
/** What tells columns of one head apart where they are listed. */
export const OF: Record<string, string> = {
  "mend-by": "Mend",
  "trim-by": "Trim",
  deviation: "Facet",
  "trim-deviation": "Trim",
};

/** A letter is about so many pixels wide, and so much stands beside the words of a cell. */
const [LETTER, BESIDE, WIDEST] = [6.7, 26, 420];

/** How wide columns are: names at least so many pixels, numbers as wide as those are, words so that room goes where the words are long. */
export function widths(columns: readonly Column[], names: number, longest: (column: Column | null) => number): string {
  const flexible = (least: number, column: Column | null) => {
    const wanted = Math.min(WIDEST, Math.max(least, longest(column) * LETTER + BESIDE));
    return `minmax(${least}px,${Math.round(wanted)}fr)`;
  };
  const others = columns.map((column) => (column.words ? flexible(column.wide, column) : `${column.wide}px`));
  return [flexible(names, null), "78px", ...others].join(" ");
}

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
