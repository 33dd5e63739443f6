import type { FC } from "react";

import type { Decisions } from "../../../api/client";

/** One operation with its settings, as decisions hold it. */
export type MendStep = NonNullable<Decisions["mend"]["steps"]>[number];

/** How one operation looks on the rung. */
export interface Operation<S extends MendStep = MendStep> {
  does: S["does"];
  name: string;
  /** What it is switched on with. */
  start: S;
  /** Its main setting. */
  Control: FC<{ step: S; onChange: (step: S, moving: boolean) => void }>;
  /** What it did, in a number with its unit. */
  effect: (amount: number) => string;
}
