import type { Decisions, Views } from "../../api/client";
import { numbers } from "../../api/read";
import { goTo, useBench } from "../../bench/bench";
import { Button, Select } from "../../ui/controls";
import { LogField } from "../../ui/fields";
import { bytes, count, metric, plural } from "../../ui/format";
import { percent } from "./operations/reduce";

type Level = NonNullable<Decisions["trim"]["levels"]>[number];

/** What a lighter level can be made by. */
const KINDS: { value: string; label: string; make: () => Omit<Level, "name"> }[] = [
  { value: "50 %", label: "half the triangles", make: () => reduced(0.5) },
  { value: "25 %", label: "a quarter of them", make: () => reduced(0.25) },
  { value: "10 %", label: "a tenth of them", make: () => reduced(0.1) },
  { value: "light", label: "coarser facets", make: () => ({ coarser: 8, steps: [] }) },
  { value: "box", label: "stand-in: a box each", make: () => standing("box") },
  { value: "hull", label: "stand-in: a hull each", make: () => standing("hull") },
  { value: "shell", label: "stand-in: a shell each", make: () => standing("shell") },
];
const reduced = (share: number) => ({ coarser: 1, steps: [{ does: "reduce" as const, share, borders: false }] });
const standing = (kind: "box" | "hull" | "shell") => ({
  coarser: 1,
  steps: [{ does: "stand-in" as const, kind, cells: 32 }],
});

/** Lighter levels beside the full one, with what each weighs and how far it lies off. */
export function Levels() {
  const { decisions, decide, result } = useBench();
  const levels = decisions.trim.levels ?? [];
  const set = (next: (now: Level[]) => Level[], label: string, moving = false) =>
    decide(
      (now) => {
        const levels = next(now.trim.levels ?? []);
        const there = (name: string | null | undefined) => levels.some((level) => level.name === name);
        const { target, beside } = now.ship;
        return {
          ...now,
          trim: { ...now.trim, levels },
          ship: {
            ...now.ship,
            beside: there(beside) ? beside : null,
            target: { ...target, level: there(target.level) ? target.level : "full" },
          },
        };
      },
      label,
      moving,
    );
  return (
    <section
      aria-label="Levels"
      className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-dashed border-line pt-2"
    >
      <div className="grid grid-cols-[1fr_150px] items-center gap-2">
        <p className="font-semibold">Lighter levels</p>
        {levels.length < 4 && (
          <Select
            label="Add a level"
            value=""
            empty="Add…"
            options={KINDS.filter(({ value }) => !levels.some(({ name }) => name === value))}
            onChange={(value) => {
              const kind = KINDS.find((item) => item.value === value)!;
              set((now) => [...now, { name: value, ...kind.make() }], `Level ${value}`);
            }}
          />
        )}
      </div>
      {!levels.length && (
        <p className="text-[12.5px] text-ink-soft">
          None. Each can ship by itself, or beside the full one as a delivery that names it.
        </p>
      )}
      <ul className="grid grid-cols-[minmax(0,1fr)]">
        {levels.map((level) => (
          <LevelLine
            key={level.name}
            level={level}
            told={result?.trim.levels?.find(({ name }) => name === level.name)}
            onChange={(change, moving) =>
              set(
                (now) => now.map((item) => (item.name === level.name ? { ...item, ...change } : item)),
                `Level ${level.name}`,
                moving,
              )
            }
            onDrop={() => set((now) => now.filter(({ name }) => name !== level.name), `No level ${level.name}`)}
          />
        ))}
      </ul>
    </section>
  );
}

function LevelLine({
  level,
  told,
  onChange,
  onDrop,
}: {
  level: Level;
  told: Views["LevelView"] | undefined;
  onChange: (change: Partial<Level>, moving: boolean) => void;
  onDrop: () => void;
}) {
  const bench = useBench();
  const { structure, result, library } = bench;
  const step = level.steps?.[0];
  const worst = told?.worst != null ? structure?.parts[told.worst]?.label : undefined;
  return (
    <li className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-cloth-deep py-1.5">
      <div className="flex items-baseline gap-2">
        <b className="font-semibold">{level.name}</b>
        <span className="min-w-0 flex-1 text-[12.5px] text-ink-soft tabular-nums">
          {told?.triangles == null
            ? "being made…"
            : `${count(told.triangles)} triangles, ${percent(told.triangles / Math.max(1, result?.triangles ?? 1))}, ${bytes(told.bytes)}`}
        </span>
        <Button quiet className="-mr-2 !py-0" aria-label={`Drop the level ${level.name}`} onClick={onDrop}>
          Drop
        </Button>
      </div>
      {told?.triangles != null && told.worst != null && (
        <p className="text-[12.5px] text-ink-soft">
          off by {metric(told.deviation)} at most, at{" "}
          <button
            type="button"
            className="rounded underline decoration-line underline-offset-4 hover:decoration-ink"
            onClick={() => goTo(bench, [told.worst!])}
          >
            {worst ?? "a part"}
          </button>
          {told.lost > 0 && <span className="text-signal">; {plural(told.lost, "part")} lost shape</span>}
        </p>
      )}
      {!!told?.stayed && (
        <p className="text-[12.5px] text-ink-soft" title={told.why}>
          {plural(told.stayed, "part")} {told.stayed === 1 ? "stays" : "stay"} as in the full level.
        </p>
      )}
      {!step ? (
        <LogField
          label="Chord error"
          value={level.coarser ?? 1}
          range={library.ranges["trim.coarser"]!}
          show={(value) => `${Number(value.toPrecision(2))} times`}
          read={numbers("times|×")}
          onMove={(coarser) => onChange({ coarser }, true)}
          onSet={(coarser) => onChange({ coarser }, false)}
        />
      ) : step.does === "stand-in" && step.kind === "shell" ? (
        <LogField
          label="Cells"
          value={step.cells ?? 32}
          range={library.ranges["stand-in.cells"]!}
          show={(value) => `${Math.round(value)} along`}
          read={numbers("along")}
          onMove={(cells) => onChange({ steps: [{ ...step, cells: Math.round(cells) }] }, true)}
          onSet={(cells) => onChange({ steps: [{ ...step, cells: Math.round(cells) }] }, false)}
        />
      ) : null}
    </li>
  );
}
