import type { Decisions } from "../../api/client";
import { useBench } from "../../bench";
import { Fact, Select } from "../../ui/controls";
import { box, boxImperial } from "../../ui/format";

const UNITS: [string, string][] = [
  ["um", "micrometre"],
  ["mm", "millimetre"],
  ["cm", "centimetre"],
  ["m", "metre"],
  ["km", "kilometre"],
  ["mil", "mil"],
  ["in", "inch"],
  ["ft", "foot"],
  ["usft", "US survey foot"],
  ["yd", "yard"],
];
const AXES = ["z", "y", "x", "-z", "-y", "-x"];
type Fit = Decisions["fit"];

/** Unit and up axis, and the size that comes of them. */
export function Fit() {
  const { decisions, decide, result } = useBench();
  const { fit } = decisions;
  const set = (change: Partial<Fit>, label: string) =>
    decide((now) => ({ ...now, fit: { ...now.fit, ...change } }), label);
  const declared = result?.declared_unit;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2.5 text-[13.5px]">
      <label className="grid grid-cols-[84px_1fr] items-center gap-2.5">
        Unit
        <Select
          label="Unit of the source"
          value={fit.unit ?? "declared"}
          onChange={(unit) =>
            set({ unit: unit === "declared" ? null : unit }, unit === "declared" ? "Unit as declared" : `Unit ${unit}`)
          }
          options={[
            { value: "declared", label: declared ? `as declared: ${declared}` : "none declared, mm taken" },
            ...UNITS.map(([value, name]) => ({ value, label: `${name} (${value})` })),
          ]}
        />
      </label>
      <label className="grid grid-cols-[84px_1fr] items-center gap-2.5">
        Up axis
        <Select
          label="Up axis of the source"
          value={fit.up ?? "declared"}
          onChange={(up) =>
            set(
              { up: up === "declared" ? null : (up as Fit["up"]) },
              up === "declared" ? "Up axis as declared" : `${up.toUpperCase()} is up`,
            )
          }
          options={[
            { value: "declared", label: "as is usual: Z" },
            ...AXES.map((axis) => ({ value: axis, label: `${axis.toUpperCase()} is up` })),
          ]}
        />
      </label>
      {result && (
        <div className="border-t border-dashed border-line pt-2">
          <dl>
            <Fact name="Overall size">
              <b className="font-semibold">{box(result.size)}</b>
              <span className="block text-[12px] text-ink-soft">{boxImperial(result.size)}</span>
            </Fact>
          </dl>
          <p className="pt-1 text-[12.5px] text-ink-soft">
            The yardstick beside the model is a person of 1.75 m. Does the model look its size?
          </p>
        </div>
      )}
    </div>
  );
}
