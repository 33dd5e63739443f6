import { useMemo, useState } from "react";

import type { Decisions } from "../../api/client";
import { goTo, useBench } from "../../bench/bench";
import { Slide } from "../../ui/Slide";
import { MapsBoard } from "./maps/MapsBoard";
import { MaterialsBoard } from "./materials/MaterialsBoard";
import { NamesBoard } from "./order/NamesBoard";
import { OrderBoard } from "./order/OrderBoard";
import { RulesBoard } from "./rules/RulesBoard";
import { whole } from "../../stage/cuts";
import { Button, Select } from "../../ui/controls";
import { Swatch } from "../../ui/Swatch";
import { count, plural } from "../../ui/format";

type SortNow = Decisions["sort"];
type BoardName = "rules" | "materials" | "maps" | "names" | "order";
/** So many rules are listed in the panel; the board has all. */
const LISTED = 8;
const BOARDS: { name: BoardName; label: string }[] = [
  { name: "rules", label: "Rules" },
  { name: "materials", label: "Materials" },
  { name: "maps", label: "Maps" },
  { name: "names", label: "Names" },
  { name: "order", label: "Order" },
];

/** The ordered table of rules, and what none of them covers. */
export function Sort() {
  const bench = useBench();
  const { decisions, decide, result, structure, library } = bench;
  const { rules, keep_source: keep } = decisions.sort;
  const [board, setBoard] = useState<BoardName | null>(null);
  const close = () => setBoard(null);
  const set = (change: Partial<SortNow>, label: string) =>
    decide((now) => ({ ...now, sort: { ...now.sort, ...change } }), label);
  const materials = (result?.palette ?? library.materials).map((item) => ({
    value: item.id,
    label: item.name,
    swatch: item.colour,
  }));
  const known = new Map(materials.map((item) => [item.value, item]));
  const labels = useMemo(() => new Map(structure?.parts.map(({ ref, label }) => [ref, label])), [structure]);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2 text-[13.5px]">
      <LooseEnds materials={materials} />
      {rules.length > 0 && (
        <ol aria-label="Rules" className="grid grid-cols-[minmax(0,1fr)] rounded border border-cloth-deep bg-white">
          {rules.slice(0, LISTED).map((rule, index) => (
            <li
              key={index}
              className="grid grid-cols-[18px_minmax(0,1fr)_minmax(0,.8fr)_auto] items-center gap-1.5 border-b border-cloth-deep px-1.5 py-1 text-[12.5px] last:border-b-0"
            >
              <span className="text-right text-ink-soft tabular-nums">{index + 1}</span>
              <span className="truncate">
                <span className="text-ink-soft">{rule.by}</span>{" "}
                {rule.by === "part" ? (labels.get(rule.match[0]!) ?? rule.match[0]) : rule.match[0]}
                {rule.match.length > 1 && ` +${rule.match.length - 1}`}
              </span>
              <span className="flex min-w-0 items-center gap-1.5">
                <Swatch colour={known.get(rule.material)?.swatch ?? "transparent"} />
                <span className="truncate">{known.get(rule.material)?.label ?? "gone"}</span>
              </span>
              <span className="text-right text-ink-soft tabular-nums" title="placements it decides">
                {count(result?.rule_counts[index] ?? 0)}×
              </span>
            </li>
          ))}
          {rules.length > LISTED && (
            <li className="px-1.5 py-1 text-[12.5px] text-ink-soft">{`and ${rules.length - LISTED} more`}</li>
          )}
        </ol>
      )}
      <div className="grid grid-cols-3 gap-1.5">
        {BOARDS.map(({ name, label }) => (
          <Button key={name} main={name === "rules"} disabled={!result} onClick={() => setBoard(name)}>
            {label}…
          </Button>
        ))}
      </div>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={keep}
          onChange={(event) =>
            set(
              { keep_source: event.target.checked },
              event.target.checked ? "Source colours kept" : "Source colours dropped",
            )
          }
          className="size-4 accent-sea"
        />
        Keep source colours where no rule matches
      </label>
      {result && (
        <Slide
          label="Roughness at least"
          className="grid-cols-[124px_1fr_44px]"
          value={decisions.sort.least_roughness}
          least={0}
          most={1}
          step={0.05}
          show={(value) => (value ? value.toFixed(2) : "free")}
          onSet={(value) =>
            set({ least_roughness: value }, value ? `Nothing shinier than roughness ${value}` : "Shine as it came")
          }
        />
      )}
      <Alike />
      {board === "rules" && <RulesBoard onClose={close} />}
      {board === "materials" && <MaterialsBoard onClose={close} />}
      {board === "maps" && <MapsBoard onClose={close} />}
      {board === "names" && <NamesBoard onClose={close} />}
      {board === "order" && <OrderBoard onClose={close} />}
      {result && (
        <ul
          aria-label="Materials in use"
          className="flex flex-wrap gap-x-3 gap-y-0.5 border-t border-dashed border-line pt-2 text-[12.5px]"
        >
          {result.materials.map((item) => (
            <li key={item.id} className="flex items-center gap-1.5">
              <Swatch colour={item.colour} /> {item.name}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** Materials that look the same, to be made one. */
function Alike() {
  const { result, take } = useBench();
  const names = new Map(result?.materials.map((item) => [item.id, item.name]));
  return (result?.alike ?? []).slice(0, 5).map(([first, ...others]) => (
    <div key={first} className="flex items-baseline gap-2 rounded border border-cloth-deep bg-white px-2 py-1">
      <span className="min-w-0 flex-1">
        {[first, ...others]
          .slice(0, 4)
          .map((id) => names.get(id!))
          .join(", ")}
        {others.length > 3 && ` and ${others.length - 3} more`} look the same.
      </span>
      <Button
        quiet
        className="!px-0"
        onClick={() =>
          take(
            { source: "", parts: [] },
            {
              label: `${names.get(first!)} for all alike`,
              does: "replace-material",
              values: { materials: others, to: first },
            },
          )
        }
      >
        Make one
      </Button>
    </div>
  ));
}

function LooseEnds({ materials }: { materials: { value: string; label: string; swatch: string }[] }) {
  const bench = useBench();
  const { result, structure, take } = bench;
  const loose = result?.loose_parts ?? [];
  if (!structure || !result) return null;
  if (!loose.length) return <p className="font-semibold text-sea">No loose ends: every surface has its material.</p>;
  const owners = whole(structure, result, loose).map((part) => structure.parts[part]!);
  const labels = owners.slice(0, 4).map((part) => part.label);
  const settle = (material: string) =>
    take(
      { source: "", parts: loose },
      { label: `${plural(owners.length, "loose end")} settled`, does: "material", values: { material } },
    );
  return (
    <section aria-label="Loose ends" className="rounded border border-signal/40 bg-signal-pale p-2">
      <p>
        <b className="font-semibold text-signal">{plural(loose.length, "loose end")}:</b> {labels.join(", ")}
        {owners.length > 4 && ` and ${owners.length - 4} more`}
      </p>
      <div className="flex items-center gap-2 pt-1.5">
        <Button
          onClick={() => {
            bench.setView({ look: "colours" });
            goTo(bench, loose);
          }}
        >
          Show them
        </Button>
        <Select
          label="Material for all loose ends"
          empty="Give all a material…"
          className="flex-1"
          value=""
          options={materials}
          onChange={settle}
        />
      </div>
    </section>
  );
}
