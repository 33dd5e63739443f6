import type { FC } from "react";

import type { Decisions, Library } from "../../../api/client";

/** One operation with its settings, as decisions hold it. */
export type MendStep = NonNullable<Decisions["mend"]["steps"]>[number];

/** How one operation looks on the rung. */
export interface Operation<S extends MendStep = MendStep> {
  does: S["does"];
  name: string;
  /** What it is switched on with. */
  start: (ranges: Library["ranges"]) => S;
  /** Its main setting. */
  Control: FC<{ step: S; ranges: Library["ranges"]; onChange: (step: S, moving: boolean) => void }>;
  /** What it did, in a number with its unit. */
  effect: (amount: number) => string;
}
