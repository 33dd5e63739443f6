import type { ReactNode } from "react";

import type { Decisions, Part } from "../../api/client";
import { goTo, useBench } from "../bench";
import { ownOf, type Whom, withOwn } from "../exceptions/entries";
import { Exceptions } from "../exceptions/Exceptions";
import { Button, Switch } from "../../ui/controls";
import { plural } from "../../ui/format";
import type { Operation, Step } from "./operation";

/** What every rung with operations decides: those of every part, and who differs. */
interface Section {
  steps?: Step[];
  exceptions: Entry[];
}
interface Entry extends Whom {
  steps: Step[];
  without: string[];
}
type Rung = "mend" | "trim";

/** The operations for every part, and who differs. */
export function Operations({
  rung,
  operations,
  ofAll = operations,
  chosen,
  more,
}: {
  rung: Rung;
  operations: Operation[];
  /** Those that are offered for every part. */
  ofAll?: Operation[];
  chosen: Part[];
  /** What is shown below an operation of the one part that is chosen. */
  more?: (operation: Operation, part: number, step: Step | null) => ReactNode;
}) {
  const { decisions, decide, result, job, structure } = useBench();
  const section = decisions[rung] as Section;
  const done = job.climb.state === "done";
  const effects = done ? (result?.effects ?? {}) : null;
  const name = chosen.length === 1 ? chosen[0]!.label : plural(chosen.length, "part");
  const refs = chosen.map(({ ref }) => ref);
  const own = ownOf(section.exceptions, refs);
  const first = chosen[0] && structure ? structure.parts.indexOf(chosen[0]) : -1;
  const change = (next: (now: Section) => Section, label: string, moving = false) =>
    decide((now) => ({ ...now, [rung]: next(now[rung] as Section) }) as Decisions, label, moving);
  const except = (next: (now: readonly Entry[]) => Entry[], label: string, moving = false) =>
    change((now) => ({ ...now, exceptions: next(now.exceptions) }), label, moving);
  const touched = ({ does }: Operation) =>
    result && result.parts.length > 1 ? result.parts.flatMap((part, at) => (part.effects[does] ? [at] : [])) : [];
  return (
    <>
      {ofAll.map((operation) => (
        <OperationLine
          key={operation.does}
          operation={operation}
          step={stepOf(section.steps, operation)}
          effects={effects}
          touched={done ? touched(operation) : []}
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
        <section
          aria-label="Only the chosen parts"
          className="grid grid-cols-[minmax(0,1fr)] gap-2 border-t border-dashed border-line pt-2"
        >
          <div className="flex items-baseline justify-between gap-2">
            <p className="min-w-0 truncate font-semibold" title={chosen.map(({ label }) => label).join(", ")}>
              Only {name}
            </p>
            {own >= 0 && (
              <Button
                quiet
                className="-mr-2"
                onClick={() =>
                  except((now) => now.filter((_, at) => at !== ownOf(now, refs)), `${name} as the job again`)
                }
              >
                As the job again
              </Button>
            )}
          </div>
          {operations.map((operation) => {
            const { step, by } = inForce(
              section,
              first < 0 ? [] : (result?.parts[first]?.[byOf(rung)] ?? []),
              operation,
            );
            return (
              <OperationLine
                key={operation.does}
                operation={operation}
                step={step}
                by={by < 0 ? "as the job" : `by exception ${by + 1}`}
                effects={done && chosen.length === 1 && first >= 0 ? (result?.parts[first]?.effects ?? null) : null}
                onChange={(next, moving) =>
                  except(
                    (now) => withOwn(now, refs, (entry) => saying(entry ?? start(partsOf(refs)), operation, next)),
                    `${operation.name} of ${name}`,
                    moving,
                  )
                }
              >
                {chosen.length === 1 && first >= 0 && more?.(operation, first, step)}
              </OperationLine>
            );
          })}
        </section>
      )}
      <Exceptions<Entry>
        rung={byOf(rung)}
        entries={section.exceptions}
        start={start}
        said={(entry) =>
          [
            ...entry.steps.map((step) => operations.find(({ does }) => does === step.does)?.said(step) ?? step.does),
            ...entry.without.map((does) => `no ${does}`),
          ].join(", ")
        }
        what={(entry, set) =>
          operations.map((operation) => (
            <OperationLine
              key={operation.does}
              operation={operation}
              step={
                entry.without.includes(operation.does)
                  ? null
                  : (stepOf(entry.steps, operation) ?? stepOf(section.steps, operation))
              }
              by={says(entry, operation) ? "" : "as the job"}
              effects={null}
              onChange={(next, moving) => set(saying(entry, operation, next), moving)}
            />
          ))
        }
        onChange={except}
      />
    </>
  );
}

function OperationLine({
  operation,
  step,
  by = "",
  effects,
  touched = [],
  onChange,
  children,
}: {
  operation: Operation;
  step: Step | null;
  /** What decided, where that is to be said. */
  by?: string;
  effects: Record<string, number> | null;
  /** Parts that it did anything to. */
  touched?: number[];
  onChange: (step: Step | null, moving: boolean) => void;
  children?: ReactNode;
}) {
  const bench = useBench();
  const { ranges } = bench.library;
  const locked = operation.does === "weld" && !step && by.startsWith("by exception");
  const told = locked
    ? "locked: its vertices stay apart"
    : step && effects
      ? operation.effect(effects[operation.does] ?? 0, effects)
      : step
        ? ""
        : operation.hint;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-1.5">
      <div className="flex items-center gap-2">
        <Switch
          label={operation.name}
          on={step !== null}
          onChange={(on) => onChange(on ? operation.start(ranges) : null, false)}
        />
        <span className="font-semibold whitespace-nowrap">{operation.name}</span>
        <span className="min-w-0 flex-1 text-right text-[12.5px] leading-tight text-ink-soft tabular-nums">
          {by && step ? [by, told].filter(Boolean).join(" · ") : told || by}
        </span>
      </div>
      {step && touched.length > 0 && (
        <Button
          quiet
          className="justify-self-end !px-0 !py-0 text-[12.5px]"
          aria-label={`${plural(touched.length, "part")} changed by ${operation.name}`}
          onClick={() => goTo(bench, touched)}
        >
          {plural(touched.length, "part")} changed
        </Button>
      )}
      {step && <operation.Control step={step} ranges={ranges} onChange={onChange} />}
      {children}
    </div>
  );
}

const byOf = (rung: Rung) => `${rung}_by` as const;

const stepOf = (steps: Step[] | undefined, operation: Operation) =>
  steps?.find((step) => step.does === operation.does) ?? null;

const withStep = (steps: Step[] | undefined, operation: Operation, step: Step | null) => [
  ...(steps ?? []).filter((item) => item.does !== operation.does),
  ...(step ? [step] : []),
];

const partsOf = (refs: string[]): Whom => ({ by: "parts", parts: refs, match: "", source: null, size: null });
const start = (whom: Whom): Entry => ({ ...whom, steps: [], without: [] });
const says = (entry: Entry, { does }: Operation) =>
  entry.without.includes(does) || entry.steps.some((step) => step.does === does);

/** An entry that has the operation, or goes without it. */
function saying(entry: Entry, operation: Operation, step: Step | null): Entry {
  const without = entry.without.filter((name) => name !== operation.does);
  return {
    ...entry,
    steps: withStep(entry.steps, operation, step),
    without: step ? without : [...without, operation.does],
  };
}

/** The operation as it is done to a part that these exceptions hold for, and which of them decided; -1 for the job. */
function inForce(
  section: Section,
  numbers: readonly number[],
  operation: Operation,
): { step: Step | null; by: number } {
  for (const number of numbers) {
    const entry = section.exceptions[number];
    if (entry && says(entry, operation)) return { step: stepOf(entry.steps, operation), by: number };
  }
  return { step: stepOf(section.steps, operation), by: -1 };
}
