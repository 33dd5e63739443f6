import { createContext, useContext } from "react";

import type { Decisions, Job, Library, Result, Structure, Views } from "../api/client";
import type { Deciding } from "../api/job";
import { whole } from "../stage/cuts";

export const RUNGS = ["Receive", "Fit", "Facet", "Sort", "Mend", "Trim", "Ship"] as const;
export type Rung = (typeof RUNGS)[number];
/** What the stage is to be pointed at for: how many points, of what kind, and what is said meanwhile. */
export interface Tool {
  /** Who asked, so that its panel knows its own. */
  id: string;
  need: number;
  takes: "point" | "edge" | "face" | "circle" | "direction";
  hint: string[];
  /** Takes what is pointed at itself, in metres, in place of exact points. */
  onHit?: (node: number, at: [number, number, number]) => void;
}
/** What colours of parts tell while Facet is open. */
export type Tint = "none" | "density" | "facet" | "off" | "view";
export type Look = "shaded" | "facets" | "edges" | "colours" | "facing";

/** What a person looks at: not a decision, so it is not kept with the job. */
export interface View {
  open: Rung | null;
  look: Look;
  tint: Tint;
  /** Parts by index. */
  chosen: ReadonlySet<number>;
  /** Where single placements are chosen, those by node, all of them of chosen parts; null: whole parts are. */
  places: ReadonlySet<number> | null;
  /** Whether choosing takes single placements. */
  single: boolean;
  /** The node that was clicked last, whose properties can be shown. */
  node: number | null;
  hidden: ReadonlySet<number>;
  /** Single placements that are hidden, by node. */
  hiddenPlaces: ReadonlySet<number>;
  /** Where the menu of what is chosen is open, in pixels of the page. */
  menu: { x: number; y: number } | null;
  /** Whether a box is drawn on the stage with the pointer, to choose what it touches. */
  boxing: boolean;
  compare: boolean;
  /** Raised to ask the stage to frame what is chosen, or all. */
  framed: number;
  /** Whether a board lies over stage and ledger, or beside a strip of the stage. */
  board: boolean | "beside";
  /** What the stage is pointed at for now, and what was picked for it. */
  tool: Tool | null;
  picks: Views["SpotView"][];
  /** Handles on the stage move and turn this source; "" all of them, null: no handles. */
  handled: string | null;
}

/** The one bench that is open: the job, its model, and how to change either. */
export interface Bench extends Omit<Deciding, "problem" | "forget"> {
  job: Job;
  structure: Structure | undefined;
  result: Result | undefined;
  library: Library;
  decisions: Decisions;
  /** Parts that cannot be picked, by index. */
  locked: ReadonlySet<number>;
  ship: () => void;
  /** Whether the server's news arrive. */
  connected: boolean;
  view: View;
  setView: (change: Partial<View> | ((now: View) => Partial<View>)) => void;
}

export const BenchContext = createContext<Bench | null>(null);

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("outside of a bench");
  return bench;
}

/** Choose parts of the result, those that were cut as the whole they were cut from, and bring them into view. */
export const goTo = ({ structure, result, setView }: Bench, parts: Iterable<number>) =>
  setView((now) => ({
    chosen: new Set(structure ? whole(structure, result, parts) : parts),
    framed: now.framed + 1,
  }));

/** What changes of a view, with what is chosen kept in order: what is locked is not, and places go with whole parts. */
export function changed(now: View, told: Partial<View>, structure: Structure | undefined, locked: ReadonlySet<number>) {
  const next = { ...now, ...told };
  if (!told.chosen) return next;
  if (locked.size) next.chosen = new Set([...told.chosen].filter((part) => !locked.has(part)));
  next.places = told.places ?? null;
  if (next.places && structure && locked.size)
    next.places = new Set([...next.places].filter((node) => !locked.has(structure.node_parts[node]!)));
  return next;
}

/** Nodes as what is chosen: those placements, and the parts that they are of. */
export const placesChosen = (structure: Structure, nodes: Iterable<number>) => {
  const places = new Set(nodes);
  return { places, chosen: new Set([...places].map((node) => structure.node_parts[node]!)) };
};

/** Nothing of what is chosen is seen any more. */
export const hideChosen = (now: View): Partial<View> => ({
  ...(now.places
    ? { hiddenPlaces: new Set([...now.hiddenPlaces, ...now.places]) }
    : { hidden: new Set([...now.hidden, ...now.chosen]) }),
  chosen: new Set(),
});

/** Only what is chosen is seen, where anything is. */
export function showOnly(now: View, structure: Structure): Partial<View> {
  if (!now.chosen.size) return {};
  const hidden = new Set([...structure.parts.keys()].filter((part) => !now.chosen.has(part)));
  if (!now.places) return { hidden, hiddenPlaces: new Set() };
  const others = structure.node_parts.flatMap((part, node) =>
    now.chosen.has(part) && !now.places!.has(node) ? [node] : [],
  );
  return { hidden, hiddenPlaces: new Set(others) };
}

export const SHOW_ALL: Partial<View> = { hidden: new Set(), hiddenPlaces: new Set() };
