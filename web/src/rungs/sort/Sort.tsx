import { useMemo, useState } from "react";

import type { Decisions, Rule, Structure } from "../../api/client";
import { goTo, useBench } from "../../bench/bench";
import { Slide } from "../../ui/Slide";
import { MapsBoard } from "./maps/MapsBoard";
import { MaterialsBoard } from "./materials/MaterialsBoard";
import { whole } from "../../stage/cuts";
import { Button, Select } from "../../ui/controls";
import { Swatch } from "../../ui/Swatch";
import { count, plural } from "../../ui/format";

type SortNow = Decisions["sort"];
const BY = [
  { value: "layer", label: "layer" },
  { value: "colour", label: "colour" },
  { value: "name", label: "name like" },
  { value: "part", label: "part" },
  { value: "class", label: "class" },
  { value: "storey", label: "storey" },
  { value: "substance", label: "substance" },
  { value: "style", label: "style" },
];

/** The ordered table of rules, and what none of them covers. */
export function Sort() {
  const bench = useBench();
  const { decisions, decide, result, structure, library } = bench;
  const { rules, keep_source: keep } = decisions.sort;
  const [board, setBoard] = useState<"maps" | "materials" | null>(null);
  const set = (change: Partial<SortNow>, label: string) =>
    decide((now) => ({ ...now, sort: { ...now.sort, ...change } }), label);
  const materials = (result?.palette ?? library.materials).map((item) => ({
    value: item.id,
    label: item.name,
    swatch: item.colour,
  }));
  // A kind that no source speaks of is no use in a list, unless a rule stands on it already.
  const kinds = useMemo(() => BY.filter(({ value }) => choicesOf(value, structure)?.length !== 0), [structure]);
  const change = (index: number, next: Partial<Rule>, label: string) =>
    set({ rules: rules.map((rule, at) => (at === index ? { ...rule, ...next } : rule)) }, label);
  const move = (index: number, by: number) => {
    const next = [...rules];
    next.splice(index + by, 0, ...next.splice(index, 1));
    set({ rules: next }, "Order of rules");
  };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2 text-[13.5px]">
      <LooseEnds materials={materials} />
      <ol aria-label="Rules" className="grid grid-cols-[minmax(0,1fr)] gap-1.5">
        {rules.map((rule, index) => (
          <li key={index} className="rounded border border-cloth-deep bg-white p-1.5">
            <div className="flex items-center gap-1.5">
              <span className="w-4 text-ink-soft">{index + 1}</span>
              <Select
                label={`Rule ${index + 1} looks at`}
                className="w-[84px]"
                value={rule.by}
                options={kinds}
                onChange={(by) => change(index, { by: by as Rule["by"], match: firstOf(by, bench) }, "Rule")}
              />
              <Match rule={rule} number={index + 1} onChange={(match) => change(index, { match }, "Rule")} />
            </div>
            <div className="flex items-center gap-1 pt-1 pl-5.5">
              <Select
                label={`Material of rule ${index + 1}`}
                className="flex-1"
                value={rule.material}
                options={materials}
                onChange={(material) => change(index, { material }, "Material of a rule")}
              />
              <span className="w-10 text-right text-[12px] text-ink-soft" title="placements it decides">
                {count(result?.rule_counts[index] ?? 0)}×
              </span>
              <Button
                quiet
                className="min-w-6 !px-1"
                aria-label={`Rule ${index + 1} earlier`}
                disabled={!index}
                onClick={() => move(index, -1)}
              >
                ↑
              </Button>
              <Button
                quiet
                className="min-w-6 !px-1"
                aria-label={`Rule ${index + 1} later`}
                disabled={index === rules.length - 1}
                onClick={() => move(index, 1)}
              >
                ↓
              </Button>
              <Button
                quiet
                className="min-w-6 !px-1"
                aria-label={`Remove rule ${index + 1}`}
                onClick={() => set({ rules: rules.filter((_, at) => at !== index) }, "Rule removed")}
              >
                ×
              </Button>
            </div>
          </li>
        ))}
      </ol>
      <div className="flex flex-wrap items-center gap-2">
        <Button
          disabled={!structure}
          onClick={() =>
            set(
              {
                rules: [...rules, { by: "layer", match: structure!.layers[0] ?? "*", material: library.rule_material }],
              },
              "Rule added",
            )
          }
        >
          Add a rule
        </Button>
        <span className="text-[12.5px] text-ink-soft">The first that matches decides.</span>
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
      <div className="flex flex-wrap gap-2">
        <Button disabled={!result} onClick={() => setBoard("materials")}>
          Materials…
        </Button>
        <Button disabled={!result} onClick={() => setBoard("maps")}>
          Maps…
        </Button>
      </div>
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
      {board === "materials" && <MaterialsBoard onClose={() => setBoard(null)} />}
      {board === "maps" && <MapsBoard onClose={() => setBoard(null)} />}
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

/** What a rule of this kind can be made to match, where the sources name it; null where anything can be typed. */
function choicesOf(by: string, structure: Structure | undefined) {
  if (by === "name" || !structure) return null;
  if (by === "part")
    return structure.parts.filter((part) => part.surface).map(({ ref, label }) => ({ value: ref, label }));
  if (by === "colour") return structure.colours.map((value) => ({ value, label: value, swatch: value.slice(0, 7) }));
  const { tags } = structure;
  const named: Record<string, (string | null)[]> = {
    layer: structure.layers,
    style: structure.styles,
    class: tags.map((item) => item.ifc_class),
    storey: tags.map((item) => item.storey),
    substance: tags.flatMap((item) => item.materials),
  };
  const words = [...new Set(named[by])].filter((word): word is string => !!word);
  return words.map((value) => ({ value, label: value }));
}

const firstOf = (by: string, { structure }: ReturnType<typeof useBench>) => choicesOf(by, structure)?.[0]?.value ?? "*";

function Match({ rule, number, onChange }: { rule: Rule; number: number; onChange: (match: string) => void }) {
  const { structure } = useBench();
  const [text, setText] = useState<string | null>(null);
  const label = `Rule ${number} matches`;
  const choices = useMemo(() => choicesOf(rule.by, structure), [rule.by, structure]);
  if (choices) {
    const known = choices.some((choice) => choice.value === rule.match);
    return (
      <Select
        label={label}
        className="min-w-0 flex-1"
        value={rule.match}
        options={known ? choices : [{ value: rule.match, label: rule.match }, ...choices]}
        onChange={onChange}
      />
    );
  }
  return (
    <input
      aria-label={label}
      value={text ?? rule.match}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => {
        if (text?.trim() && text !== rule.match) onChange(text.trim());
        setText(null);
      }}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      className="min-w-0 flex-1 rounded-md border border-field bg-white px-2 py-1 text-[13px]"
    />
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
  const { result, structure, decide } = bench;
  const loose = result?.loose_parts ?? [];
  if (!structure || !result) return null;
  if (!loose.length) return <p className="font-semibold text-sea">No loose ends: every surface has its material.</p>;
  const owners = whole(structure, result, loose).map((part) => structure.parts[part]!);
  const refs = owners.map((part) => part.ref);
  const labels = owners.slice(0, 4).map((part) => part.label);
  const settle = (material: string) =>
    decide(
      (now) => ({
        ...now,
        sort: {
          ...now.sort,
          rules: [...now.sort.rules, ...refs.map((match) => ({ by: "part" as const, match, material }))],
        },
      }),
      `${plural(refs.length, "loose end")} settled`,
    );
  return (
    <section aria-label="Loose ends" className="rounded border border-signal/40 bg-signal-pale p-2">
      <p>
        <b className="font-semibold text-signal">{plural(loose.length, "loose end")}:</b> {labels.join(", ")}
        {refs.length > 4 && ` and ${refs.length - 4} more`}
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
