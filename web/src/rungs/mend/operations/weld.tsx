import type { Views } from "../../../api/client";
import { LogField } from "../../../ui/fields";
import { metric, plural, readLength } from "../../../ui/format";
import type { Operation } from "./operation";

/** Vertices of a part that lie near each other become one. */
export const weld: Operation<Views["Weld"]> = {
  does: "weld",
  name: "Weld",
  start: { does: "weld", tolerance: 1e-5 },
  Control: ({ step, onChange }) => (
    <LogField
      label="Within"
      value={Number(step.tolerance)}
      least={1e-6}
      most={0.1}
      show={metric}
      read={readLength}
      onMove={(tolerance) => onChange({ ...step, tolerance }, true)}
      onSet={(tolerance) => onChange({ ...step, tolerance }, false)}
    />
  ),
  effect: (amount) => `${plural(amount, "vertex", "vertices")} fewer`,
};
