import type { Operation } from "../../../bench/operations/operation";
import type { Views } from "../../../api/client";
import { LogField } from "../../../ui/fields";
import { metric, plural } from "../../../ui/format";

/** What is flat covered by as few triangles as its outline needs. */
export const flats: Operation<Views["Flats"]> = {
  does: "flats",
  name: "Merge flats",
  hint: "without loss",
  start: (ranges) => ({ does: "flats", tolerance: ranges["flats.tolerance"]!.start }),
  Control: ({ step, ranges, onChange }) => (
    <LogField
      label="Off plane by"
      value={Number(step.tolerance)}
      range={ranges["flats.tolerance"]!}
      show={(value) => (value < 1e-6 ? `${Number((value * 1e9).toPrecision(2))} nm` : metric(value))}
      onMove={(tolerance) => onChange({ ...step, tolerance }, true)}
      onSet={(tolerance) => onChange({ ...step, tolerance }, false)}
    />
  ),
  effect: (amount) => `${plural(amount, "triangle")} fewer`,
  said: () => "merge flats",
};
