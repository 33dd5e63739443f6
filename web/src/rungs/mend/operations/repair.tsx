import type { Views } from "../../../api/client";
import { LogField } from "../../../ui/fields";
import { count, metric, plural } from "../../../ui/format";
import type { Operation } from "../../../bench/operations/operation";

type Step = Views["Repair"];
type Kind = NonNullable<Step["kinds"]>[number];

/** Kinds of damage, in the order in which they are put right. */
const KINDS: [Kind, string, string][] = [
  ["degenerate", "No area", "triangles that show nothing go"],
  ["duplicate", "Doubled", "of triangles in one place one stays"],
  ["open", "Seams", "borders that lie near each other are joined"],
  ["t-joints", "T-joints", "edges run through corners that lie on them"],
  ["over-shared", "Over-shared", "fins and inner walls go, what touches comes apart"],
  ["holes", "Holes", "rings of open edges are filled"],
  ["crossing", "Crossing", "shells that go through each other become one"],
];
const ALL = KINDS.map(([kind]) => kind);

/** What is wrong with triangles, put right by kind. */
export const repair: Operation<Step> = {
  does: "repair",
  name: "Repair",
  hint: "damaged triangles, by kind",
  start: (ranges) => ({
    does: "repair",
    kinds: ALL,
    reach: ranges["repair.reach"]!.start,
    watertight: false,
    cells: ranges["repair.cells"]!.start,
  }),
  Control: ({ step, ranges, onChange }) => {
    const kinds = new Set(step.kinds ?? ALL);
    const flip = (kind: Kind) => ALL.filter((one) => (one === kind ? !kinds.has(one) : kinds.has(one)));
    return (
      <>
        <div role="group" aria-label="Kinds of damage" className="grid grid-cols-2 gap-x-2 gap-y-0.5 text-[12.5px]">
          {KINDS.map(([kind, name, meaning]) => (
            <label key={kind} title={meaning} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={kinds.has(kind)}
                onChange={() => onChange({ ...step, kinds: flip(kind) }, false)}
                className="size-4 accent-ink"
              />
              {name}
            </label>
          ))}
        </div>
        {kinds.has("open") && (
          <LogField
            label="Seams within"
            value={Number(step.reach)}
            range={ranges["repair.reach"]!}
            show={metric}
            onMove={(reach) => onChange({ ...step, reach }, true)}
            onSet={(reach) => onChange({ ...step, reach }, false)}
          />
        )}
        <label className="flex items-start gap-1.5 text-[12.5px]">
          <input
            type="checkbox"
            checked={step.watertight ?? false}
            onChange={(event) => onChange({ ...step, watertight: event.target.checked }, false)}
            className="mt-0.5 size-4 accent-ink"
          />
          <span>
            Watertight by force{" "}
            <span className="text-ink-soft">
              as a last resort: what is still open is made anew from what it encloses; thin walls suffer
            </span>
          </span>
        </label>
      </>
    );
  },
  effect: (amount, all) =>
    `${count(amount)} put right${all["repair.forced"] ? `, ${plural(all["repair.forced"], "part")} made anew` : ""}`,
  said: (step) => {
    const kinds = step.kinds ?? ALL;
    return `repair ${kinds.length === ALL.length ? "all kinds" : kinds.join(", ")}${step.watertight ? ", watertight" : ""}`;
  },
};
