import { useBench } from "../../bench/bench";
import { Switch } from "../../ui/controls";
import { numbers } from "../../api/read";
import { LogField } from "../../ui/fields";
import { count } from "../../ui/format";

const LIGHT = "light";

/** A lighter level beside the full one; which of them ships is chosen at Ship. */
export function Trim() {
  const { result, decisions, decide, library } = useBench();
  const range = library.ranges["trim.coarser"]!;
  const levels = decisions.trim?.levels ?? [];
  const light = levels.find((level) => level.name === LIGHT);
  const set = (coarser: number | null, label: string, moving = false) =>
    decide(
      (now) => {
        const others = (now.trim?.levels ?? []).filter((level) => level.name !== LIGHT);
        const next = coarser === null ? others : [...others, { name: LIGHT, coarser }];
        const target = coarser === null && now.ship.target.level === LIGHT ? { level: "full" } : {};
        return {
          ...now,
          trim: { ...now.trim, levels: next },
          ship: { ...now.ship, target: { ...now.ship.target, ...target } },
        };
      },
      label,
      moving,
    );
  const triangles = result?.levels[LIGHT];
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2 text-[13.5px]">
      <div className="flex items-center gap-2">
        <Switch
          label="Light level"
          on={!!light}
          onChange={(on) => set(on ? range.start : null, on ? "Light level" : "Light level off")}
        />
        <span className="flex-1 font-semibold">Light level</span>
        <span className="text-[12.5px] text-ink-soft tabular-nums">
          {light &&
            (triangles == null || !result
              ? "…"
              : `${((100 * triangles) / Math.max(result.levels.full ?? 1, 1)).toFixed(0)} % of the full`)}
        </span>
      </div>
      {light && (
        <LogField
          label="Chord error"
          value={light.coarser ?? range.start}
          range={range}
          show={(value) => `${Number(value.toPrecision(2))} times`}
          read={numbers("times|×")}
          onMove={(coarser) => set(coarser, "Chord error of the light level", true)}
          onSet={(coarser) => set(coarser, "Chord error of the light level")}
        />
      )}
      <p className="text-[12.5px] text-ink-soft">
        {light
          ? "Chord errors are so many times larger, angles wider by the root of that. The full level stays; which of them ships is chosen at Ship."
          : `Nothing is trimmed: all ${result ? `${count(result.triangles)} triangles` : "triangles"} that Facet makes are shipped.`}
      </p>
    </div>
  );
}
