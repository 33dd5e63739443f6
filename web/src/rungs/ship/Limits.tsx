import { useBench } from "../../bench/bench";
import { Button, Select } from "../../ui/controls";
import { plural } from "../../ui/format";
import { FindingLines } from "../../bench/FindingLines";
import type { SetTarget } from "./target";

const LENGTHS = ["16", "31", "63", "127"];

/** Parts that stand in several places: one mesh with instances, or a mesh at every place, of all parts or of some. */
export function Instances({ set }: { set: SetTarget }) {
  const { decisions, structure, view } = useBench();
  const { instances, separate } = decisions.ship.target;
  const chosen = [...view.chosen].flatMap((part) => {
    const one = structure?.parts[part];
    return one && one.times > 1 ? [one.ref] : [];
  });
  const fresh = chosen.filter((ref) => !separate.includes(ref));
  return (
    <div className="grid grid-cols-[84px_minmax(0,1fr)] items-center gap-x-2.5 gap-y-1.5">
      Instances
      <Select
        label="Instances"
        value={instances}
        onChange={(next) => set({ instances: next as typeof instances }, "Instances of the target")}
        options={[
          { value: "kept", label: "kept: each shape is stored once" },
          { value: "separate", label: "separate: a mesh at every place" },
        ]}
      />
      {instances === "kept" && (separate.length > 0 || fresh.length > 0) && (
        <p className="col-start-2 flex flex-wrap items-center gap-2 text-[13px] text-ink-soft">
          {separate.length > 0 && `${plural(separate.length, "part")} separate all the same.`}
          {fresh.length > 0 && (
            <Button
              onClick={() =>
                set({ separate: [...separate, ...fresh] }, `Instances of ${plural(fresh.length, "part")} separate`)
              }
            >
              Separate {plural(fresh.length, "chosen part")}
            </Button>
          )}
          {separate.length > 0 && (
            <Button quiet className="!px-0" onClick={() => set({ separate: [] }, "All instances kept")}>
              Keep all
            </Button>
          )}
        </p>
      )}
    </div>
  );
}

/** What names the receiver takes; what does not fit is told, and fitted as it ships. */
export function Naming({ set }: { set: SetTarget }) {
  const { target } = useBench().decisions.ship;
  const longest = String(target.longest_name ?? "any");
  return (
    <div className="grid grid-cols-[84px_minmax(0,1fr)] items-center gap-x-2.5 gap-y-1.5">
      Names
      <div className="grid gap-1.5">
        <Select
          label="Letters in names"
          value={target.plain_names ? "plain" : "any"}
          onChange={(next) => set({ plain_names: next === "plain" }, "Letters in names")}
          options={[
            { value: "any", label: "any letters" },
            { value: "plain", label: "A–Z, 0–9, dash and underscore" },
          ]}
        />
        <Select
          label="Length of names"
          value={longest}
          onChange={(next) => set({ longest_name: next === "any" ? null : Number(next) }, "Length of names")}
          options={[
            { value: "any", label: "of any length" },
            ...(longest === "any" || LENGTHS.includes(longest) ? LENGTHS : [...LENGTHS, longest]).map((value) => ({
              value,
              label: `at most ${value} letters`,
            })),
          ]}
        />
      </div>
      <div className="col-span-2">
        <FindingLines codes={["unfit-names"]} />
      </div>
    </div>
  );
}
