import type { Views } from "../../../api/client";
import { LogField } from "../../../ui/fields";
import { count, metric, plural } from "../../../ui/format";
import type { Operation } from "../../../bench/operations/operation";

/** Sharp convex edges rounded a little. */
export const round: Operation<Views["Round"]> = {
  does: "round",
  name: "Round edges",
  hint: "the sharp ones, a little",
  start: (ranges) => ({
    does: "round",
    width: ranges["round.width"]!.start,
    sharp: ranges["round.sharp"]!.start,
  }),
  Control: ({ step, ranges, onChange }) => (
    <LogField
      label="Width"
      value={Number(step.width)}
      range={ranges["round.width"]!}
      show={metric}
      onMove={(width) => onChange({ ...step, width }, true)}
      onSet={(width) => onChange({ ...step, width }, false)}
    />
  ),
  effect: (amount, all) =>
    `${plural(amount, "edge")} rounded${all["round.sharp"] ? `, ${count(all["round.sharp"])} stayed sharp` : ""}`,
  said: (step) => `round ${metric(Number(step.width))}`,
};
