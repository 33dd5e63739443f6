import { createContext, useContext } from "react";

import type { Decisions, Job, Library, Result, Structure } from "../api/client";
import type { Deciding } from "../api/job";

export const RUNGS = ["Receive", "Fit", "Facet", "Sort", "Mend", "Trim", "Ship"] as const;
export type Rung = (typeof RUNGS)[number];
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
}

/** The one bench that is open: the job, its model, and how to change either. */
export interface Bench extends Omit<Deciding, "problem" | "forget"> {
  job: Job;
  structure: Structure | undefined;
  result: Result | undefined;
  library: Library;
  decisions: Decisions;
  ship: () => void;
  view: View;
  setView: (change: Partial<View> | ((now: View) => Partial<View>)) => void;
}

export const BenchContext = createContext<Bench | null>(null);

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("outside of a bench");
  return bench;
}

/** Choose parts and bring them into view. */
export const goTo = (bench: Bench, parts: Iterable<number>) =>
  bench.setView((now) => ({ chosen: new Set(parts), framed: now.framed + 1 }));
