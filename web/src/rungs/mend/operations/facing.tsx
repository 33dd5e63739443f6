import type { Views } from "../../../api/client";
import { OneOf } from "../../../ui/controls";
import { plural } from "../../../ui/format";
import type { Operation } from "../../../bench/operations/operation";

/** Neighbours wound alike, and the outside out. */
export const facing: Operation<Views["Facing"]> = {
  does: "facing",
  name: "Face outward",
  hint: "the outside out",
  start: () => ({ does: "facing", kind: "outward", nested: false }),
  Control: ({ step, onChange }) => (
    <>
      <OneOf
        label="Facing"
        value={step.kind ?? "outward"}
        options={[
          { value: "outward", label: "outward" },
          { value: "consistent", label: "neighbours alike only" },
        ]}
        onChange={(kind) => onChange({ ...step, kind }, false)}
      />
      {step.kind !== "consistent" && (
        <label className="flex items-center gap-2 text-[12.5px]">
          <input
            type="checkbox"
            checked={step.nested ?? false}
            onChange={(event) => onChange({ ...step, nested: event.target.checked }, false)}
            className="size-4 accent-ink"
          />
          Shells inside shells are hollows and face inward
        </label>
      )}
    </>
  ),
  effect: (amount, all) =>
    [
      `${plural(amount, "triangle")} turned`,
      all["facing.sheets"] && `${plural(all["facing.sheets"], "sheet")} without outside`,
      all["facing.one_sided"] && `${plural(all["facing.one_sided"], "strip")} with one side`,
    ]
      .filter(Boolean)
      .join(", "),
  said: (step) => (step.kind === "consistent" ? "neighbours alike" : "outward"),
};
