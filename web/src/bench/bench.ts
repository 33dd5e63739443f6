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
export type Look = "shaded" | "edges" | "colours" | "facing";

/** What a person looks at: not a decision, so it is not kept with the job. */
export interface View {
  open: Rung | null;
  look: Look;
  /** Parts by index. */
  chosen: ReadonlySet<number>;
  /** The node that was clicked last, whose properties can be shown. */
  node: number | null;
  hidden: ReadonlySet<number>;
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
