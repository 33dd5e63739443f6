import type { FC } from "react";

import type { Decisions, Library } from "../../api/client";

/** One operation with its settings, as decisions hold it. */
export type Step = NonNullable<Decisions["mend"]["steps"]>[number] | NonNullable<Decisions["trim"]["steps"]>[number];

/** How one operation looks on the rung. */
export interface Operation<S extends Step = Step> {
  does: S["does"];
  name: string;
  /** What it is for, said where it is off. */
  hint: string;
  /** What it is switched on with. */
  start: (ranges: Library["ranges"]) => S;
  /** Its settings, the main one first. */
  Control: FC<{ step: S; ranges: Library["ranges"]; onChange: (step: S, moving: boolean) => void }>;
  /** What it did, in a number with its unit; from what every operation did, by name. */
  effect: (amount: number, all: Record<string, number>) => string;
  /** What it does, in a few words, for a list. */
  said: (step: S) => string;
}
