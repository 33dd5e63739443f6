import type { Operation } from "../../../bench/operations/operation";
import type { Views } from "../../../api/client";
import { numbers } from "../../../api/read";
import { OneOf } from "../../../ui/controls";
import { LogField } from "../../../ui/fields";
import { count, metric, plural } from "../../../ui/format";

type Step = Views["Reduce"];

export const percent = (share: number) => `${Number((100 * share).toPrecision(3))} %`;

/** Fewer triangles, each part to a goal of its own. */
export const reduce: Operation<Step> = {
  does: "reduce",
  name: "Reduce",
  hint: "fewer triangles",
  start: (ranges) => ({ does: "reduce", share: ranges["reduce.share"]!.start, borders: false }),
  Control: ({ step, ranges, onChange }) => {
    const by = step.error != null ? "error" : step.count != null ? "count" : "share";
    const to = (change: Partial<Step>) => ({ ...step, share: null, count: null, error: null, ...change });
    return (
      <>
        <OneOf
          label="Reduce to"
          value={by}
          options={[
            { value: "share", label: "a share" },
            { value: "count", label: "a count" },
            { value: "error", label: "an error" },
          ]}
          onChange={(next) => onChange(to({ [next]: ranges[`reduce.${next}`]!.start }), false)}
        />
        {by === "error" ? (
          <LogField
            label="Error"
            value={Number(step.error)}
            range={ranges["reduce.error"]!}
            show={metric}
            onMove={(error) => onChange(to({ error }), true)}
            onSet={(error) => onChange(to({ error }), false)}
          />
        ) : by === "count" ? (
          <LogField
            label="Triangles"
            value={step.count!}
            range={ranges["reduce.count"]!}
            show={count}
            read={numbers("")}
            onMove={(value) => onChange(to({ count: Math.round(value) }), true)}
            onSet={(value) => onChange(to({ count: Math.round(value) }), false)}
          />
        ) : (
          <LogField
            label="Share kept"
            value={step.share!}
            range={ranges["reduce.share"]!}
            show={percent}
            read={numbers("%", 0.01)}
            onMove={(share) => onChange(to({ share }), true)}
            onSet={(share) => onChange(to({ share }), false)}
          />
        )}
        <Holding
          hold={step.hold != null}
          onHold={(on) => onChange({ ...step, hold: on ? ranges["reduce.hold"]!.start : null }, false)}
        />
        <label className="flex items-center gap-1.5 text-[12.5px]">
          <input
            type="checkbox"
            checked={step.borders ?? false}
            onChange={(event) => onChange({ ...step, borders: event.target.checked }, false)}
            className="size-4 accent-ink"
          />
          Where the surface ends, nothing moves
        </label>
      </>
    );
  },
  effect: (amount) => `${plural(amount, "triangle")} fewer`,
  said: (step) =>
    `reduce to ${step.error != null ? metric(Number(step.error)) : step.count != null ? plural(step.count, "triangle") : percent(step.share!)}${step.hold != null ? ", shape held" : ""}`,
};

export const Holding = ({ hold, onHold }: { hold: boolean; onHold: (on: boolean) => void }) => (
  <label className="flex items-center gap-1.5 text-[12.5px]">
    <input
      type="checkbox"
      checked={hold}
      onChange={(event) => onHold(event.target.checked)}
      className="size-4 accent-ink"
    />
    No farther than each part’s shape holds
  </label>
);
