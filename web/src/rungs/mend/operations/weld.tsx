import type { Views } from "../../../api/client";
import { LogField } from "../../../ui/fields";
import { metric, plural } from "../../../ui/format";
import type { Operation } from "../../../bench/operations/operation";

/** Vertices of a part that lie near each other become one. */
export const weld: Operation<Views["Weld"]> = {
  does: "weld",
  name: "Weld",
  hint: "near vertices of a part",
  start: (ranges) => ({ does: "weld", tolerance: ranges["weld.tolerance"]!.start }),
  Control: ({ step, ranges, onChange }) => (
    <LogField
      label="Within"
      value={Number(step.tolerance)}
      range={ranges["weld.tolerance"]!}
      show={metric}
      onMove={(tolerance) => onChange({ ...step, tolerance }, true)}
      onSet={(tolerance) => onChange({ ...step, tolerance }, false)}
    />
  ),
  effect: (amount) => `${plural(amount, "vertex", "vertices")} fewer`,
  said: (step) => `weld ${metric(Number(step.tolerance))}`,
};
