import type { Decisions, Part } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Button, Switch } from "../../../ui/controls";
import { plural } from "../../../ui/format";
import type { MendStep, Operation } from "./operation";
import { OPERATIONS } from "./table";

type MendNow = Decisions["mend"];

/** The operations for every part, and for the chosen parts where they differ. */
export function Operations({ chosen }: { chosen: Part[] }) {
  const { decisions, decide, result, job } = useBench();
  const mend = decisions.mend;
  const done = job.climb.state === "done";
  const own = Object.keys(mend.parts ?? {});
  const name = chosen.length === 1 ? chosen[0]!.label : plural(chosen.length, "part");
  const change = (next: (now: MendNow) => MendNow, label: string, moving = false) =>
    decide((now) => ({ ...now, mend: next(now.mend) }), label, moving);
  return (
    <>
      {OPERATIONS.map((operation) => (
        <OperationLine
          key={operation.does}
          operation={operation}
          step={stepOf(mend.steps, operation)}
          effect={done ? (result?.effects[operation.does] ?? null) : null}
          onChange={(step, moving) =>
            change(
              (now) => ({ ...now, steps: withStep(now.steps, operation, step) }),
              `${operation.name}${step ? "" : " off"}`,
              moving,
            )
          }
        />
      ))}
      {chosen.length > 0 && (
        <section aria-label="Only the chosen parts" className="grid gap-2 border-t border-dashed border-line pt-2">
          <div className="flex items-baseline justify-between gap-2">
            <p className="min-w-0 truncate font-semibold" title={chosen.map(({ label }) => label).join(", ")}>
              Only {name}
            </p>
            {chosen.some(({ ref }) => mend.parts?.[ref]) && (
              <Button
                quiet
                className="-mr-2"
                onClick={() => change((now) => asTheJob(now, chosen), "As the job again")}
              >
                As the job again
              </Button>
            )}
          </div>
          {OPERATIONS.map((operation) => (
            <OperationLine
              key={operation.does}
              operation={operation}
              step={inForce(mend, chosen[0]!.ref, operation)}
              effect={null}
              onChange={(step, moving) =>
                change(
                  (now) => chosen.reduce((next, { ref }) => override(next, ref, operation, step), now),
                  `${operation.name} of ${name}`,
                  moving,
                )
              }
            />
          ))}
        </section>
      )}
      {!chosen.length && own.length > 0 && (
        <p className="text-[12.5px] text-ink-soft">{plural(own.length, "part differs", "parts differ")} from these.</p>
      )}
    </>
  );
}

function OperationLine({
  operation,
  step,
  effect,
  onChange,
}: {
  operation: Operation;
  step: MendStep | null;
  effect: number | null;
  onChange: (step: MendStep | null, moving: boolean) => void;
}) {
  const { ranges } = useBench().library;
  return (
    <div className="grid gap-1.5">
      <div className="flex items-center gap-2">
        <Switch
          label={operation.name}
          on={step !== null}
          onChange={(on) => onChange(on ? operation.start(ranges) : null, false)}
        />
        <span className="flex-1 font-semibold">{operation.name}</span>
        <span className="text-[12.5px] text-ink-soft tabular-nums">
          {step && effect !== null ? operation.effect(effect) : ""}
        </span>
      </div>
      {step && <operation.Control step={step} ranges={ranges} onChange={onChange} />}
    </div>
  );
}

const stepOf = (steps: MendStep[] | undefined, operation: Operation) =>
  steps?.find((step) => step.does === operation.does) ?? null;

const withStep = (steps: MendStep[] | undefined, operation: Operation, step: MendStep | null) => [
  ...(steps ?? []).filter((item) => item.does !== operation.does),
  ...(step ? [step] : []),
];

/** The operation as it is done to one part: its own, none, or the job's. */
function inForce(mend: MendNow, ref: string, operation: Operation): MendStep | null {
  const own = mend.parts?.[ref];
  if (own?.without?.includes(operation.does)) return null;
  return stepOf(own?.steps, operation) ?? stepOf(mend.steps, operation);
}

function override(mend: MendNow, ref: string, operation: Operation, step: MendStep | null): MendNow {
  const own = mend.parts?.[ref];
  const others = (own?.without ?? []).filter((name) => name !== operation.does);
  const without = !step && stepOf(mend.steps, operation) ? [...others, operation.does] : others;
  return { ...mend, parts: { ...mend.parts, [ref]: { steps: withStep(own?.steps, operation, step), without } } };
}

function asTheJob(mend: MendNow, chosen: Part[]): MendNow {
  const parts = { ...mend.parts };
  for (const { ref } of chosen) delete parts[ref];
  return { ...mend, parts };
}
