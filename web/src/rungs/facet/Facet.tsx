import { useState } from "react";

import type { Decisions } from "../../api/client";
import { type Tint, useBench } from "../../bench/bench";
import { Exceptions } from "../../bench/exceptions/Exceptions";
import { ownOf, withOwn } from "../../bench/exceptions/entries";
import { Button, Figure, Named, OneOf, Select } from "../../ui/controls";
import { numbers } from "../../api/read";
import { LengthField, LogField } from "../../ui/fields";
import { bytes, count, metric } from "../../ui/format";

import { Allowance } from "./Allowance";
import { ByMaterial } from "./ByMaterial";
import { ByView } from "./ByView";
import { Edges } from "./Edges";
import { InForce } from "./InForce";
import { chordSaid, OwnPurposes } from "./OwnPurposes";
import { partsOf, start } from "./swatches/settings";
import { SwatchBoard } from "./swatches/SwatchBoard";

type FacetNow = Decisions["facet"];
const TINTS = [
  { value: "none", label: "material" },
  { value: "density", label: "triangles by area" },
  { value: "facet", label: "size of facets" },
  { value: "off", label: "deviation" },
  { value: "view", label: "near and far" },
];
type Chord = FacetNow["chord"];

/** How densely curves become triangles: for the job, and for the chosen parts. */
export function Facet() {
  const { decisions, decide, result, structure, view, setView, job, library } = useBench();
  const { facet } = decisions;
  const chosen = [...view.chosen].filter((part) => structure?.parts[part]?.surface);
  const [board, setBoard] = useState<number[] | null>(null);
  const set = (change: Partial<FacetNow>, label: string, moving = false) =>
    decide((now) => ({ ...now, facet: { ...now.facet, ...change } }), label, moving);
  const purpose = library.purposes.find(
    (item) =>
      facet.chord.kind === "absolute" &&
      Math.abs(facet.chord.metres - item.metres) < 1e-9 &&
      Math.abs(facet.degrees - item.degrees) < 1e-9,
  );
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2.5">
      <OneOf
        label="Purpose"
        value={purpose?.id ?? null}
        options={library.purposes.map(({ id }) => ({ value: id, label: id[0]!.toUpperCase() + id.slice(1) }))}
        onChange={(value) => {
          const found = library.purposes.find((item) => item.id === value)!;
          set({ chord: { kind: "absolute", metres: found.metres }, degrees: found.degrees }, `Facets for ${found.id}`);
        }}
      />
      <OwnPurposes onTake={(chord, degrees, name) => set({ chord, degrees }, `Facets for ${name}`)} />
      <ChordField chord={facet.chord} onChange={(chord, moving) => set({ chord }, "Chord error", moving)} />
      <LogField
        label="Angle"
        value={facet.degrees}
        range={library.ranges["facet.degrees"]!}
        show={(value) => `${Number(value.toPrecision(3))}°`}
        read={numbers("°|deg")}
        onMove={(degrees) => set({ degrees }, "Angle", true)}
        onSet={(degrees) => set({ degrees }, "Angle")}
      />
      <OneOf
        label="Chord error as"
        value={facet.chord.kind}
        options={[
          { value: "absolute", label: "as a length" },
          { value: "relative", label: "by part size" },
        ]}
        onChange={(kind) =>
          set(
            {
              chord:
                kind === "absolute"
                  ? { kind, metres: library.ranges["facet.chord"]!.start }
                  : { kind, share: library.ranges["facet.share"]!.start },
            },
            kind === "absolute" ? "Chord error as a length" : "Chord error by part size",
          )
        }
      />
      <Edges facet={facet} onSet={set} />
      <InForce facet={facet} />
      {board && <SwatchBoard parts={board} onClose={() => setBoard(null)} />}
      <Button className="justify-self-start" disabled={!result} onClick={() => setBoard(chosen)}>
        {chosen.length === 1
          ? `Swatches of ${structure!.parts[chosen[0]!]!.label}`
          : chosen.length
            ? `Swatches of ${chosen.length} parts`
            : "Swatches"}
      </Button>
      <Named name="Colour by">
        <Select
          label="Colour parts by"
          value={view.tint}
          options={TINTS}
          onChange={(tint) => setView({ tint: tint as Tint })}
        />
      </Named>
      {result && (
        <div className="grid grid-cols-3 gap-1.5 border-t border-dashed border-line pt-2.5">
          <Figure value={job.climb.state === "done" ? metric(result.off_by) : "…"} meaning="largest deviation" />
          <Figure value={count(result.vertices)} meaning="vertices" />
          <Figure value={job.climb.state === "done" ? bytes(result.glb_bytes) : "…"} meaning="as GLB, about" />
        </div>
      )}
      <Proven chosen={chosen} />
      <div className="grid gap-1 border-t border-dashed border-line pt-2">
        <ByMaterial />
        <ByView />
        <Allowance />
      </div>
      <Own chosen={chosen} />
    </div>
  );
}

/** How far what is chosen, or all, was measured to be off, and how many triangles are slivers. */
function Proven({ chosen }: { chosen: number[] }) {
  const { result, structure } = useBench();
  const part = chosen.length === 1 ? result?.parts[chosen[0]!] : undefined;
  if (!result?.triangles) return null;
  const slim = part ? [part.slender, part.triangles ?? 0] : [result.slender, result.triangles];
  const share = Math.round((100 * (slim[0] ?? 0)) / Math.max(1, slim[1]!));
  if (!part?.samples && !share) return null;
  return (
    <p className="text-[12.5px] text-ink-soft">
      {part?.samples ? (
        <>
          {structure!.parts[chosen[0]!]!.label} is off by {metric(part.off_by ?? 0)}, found at {count(part.samples)}{" "}
          points
          {part.bound != null && <>, nowhere more than {metric(part.bound)}</>}.{" "}
        </>
      ) : null}
      {share > 0 &&
        `${share} % of the triangles have an angle under 5°. Slivers, above, says how many more may be spent on cutting them across.`}
    </p>
  );
}

function ChordField({ chord, onChange }: { chord: Chord; onChange: (chord: Chord, moving: boolean) => void }) {
  const { ranges } = useBench().library;
  return chord.kind === "absolute" ? (
    <LogField
      label="Chord error"
      value={chord.metres}
      range={ranges["facet.chord"]!}
      show={metric}
      onMove={(metres) => onChange({ kind: "absolute", metres }, true)}
      onSet={(metres) => onChange({ kind: "absolute", metres }, false)}
    />
  ) : (
    <LogField
      label="Chord error"
      value={chord.share}
      range={ranges["facet.share"]!}
      show={(value) => `${Number((value * 100).toPrecision(2))} %`}
      read={numbers("%", 0.01)}
      onMove={(share) => onChange({ kind: "relative", share }, true)}
      onSet={(share) => onChange({ kind: "relative", share }, false)}
    />
  );
}

/** Who differs from the job, and the chosen parts first. */
function Own({ chosen }: { chosen: number[] }) {
  const { decisions, decide, structure, result, library } = useBench();
  const entries = decisions.facet.exceptions;
  const change = (next: (now: readonly Entry[]) => Entry[], label: string, moving = false) =>
    decide((now) => ({ ...now, facet: { ...now.facet, exceptions: next(now.facet.exceptions) } }), label, moving);
  const refs = chosen.map((part) => structure!.parts[part]!.ref);
  const at = ownOf(entries, refs);
  const labels = chosen.map((part) => structure!.parts[part]!.label);
  const name = refs.length === 1 ? labels[0]! : `${refs.length} parts`;
  const first = entries[at]?.chord ?? {
    kind: "absolute" as const,
    metres:
      chosen.map((part) => result?.parts[part]?.chord).find((chord) => chord) ?? library.ranges["facet.chord"]!.start,
  };
  return (
    <>
      {chosen.length > 0 ? (
        <section aria-label="Own chord error" className="grid gap-2 border-t border-dashed border-line pt-2.5">
          <p className="truncate font-semibold" title={labels.join(", ")}>
            Only {name}
          </p>
          <ChordField
            chord={first}
            onChange={(chord, moving) =>
              change(
                (now) =>
                  withOwn(now, refs, (entry) => ({ ...(entry ?? start(partsOf(refs))), chord, made: "hand" as const })),
                `Chord error of ${name}`,
                moving,
              )
            }
          />
          {at >= 0 && (
            <Button
              className="justify-self-start"
              onClick={() =>
                change((now) => now.filter((_, place) => place !== ownOf(now, refs)), `${name} as the job`)
              }
            >
              As the job again
            </Button>
          )}
        </section>
      ) : (
        !entries.length && (
          <p className="text-[12.5px] text-ink-soft">
            Choose parts on the stage or in the ledger to give them their own.
          </p>
        )
      )}
      <Exceptions<Entry>
        rung="facet_by"
        entries={entries}
        start={start}
        said={(entry) =>
          [
            entry.chord && `${chordSaid(entry.chord)}${entry.chord.kind === "relative" ? " of its size" : ""}`,
            entry.degrees && `${entry.degrees}°`,
            entry.longest && `edges to ${metric(entry.longest)}`,
            entry.shortest && `edges from ${metric(entry.shortest)}`,
            entry.even && `slivers cut for ${Math.round(entry.even * 100)} % more`,
            MADE[entry.made],
            entry.pinned && "pinned",
          ]
            .filter(Boolean)
            .join(", ")
        }
        what={(entry, set) => (
          <>
            <ChordField
              chord={entry.chord ?? decisions.facet.chord}
              onChange={(chord, moving) => set({ ...entry, chord }, moving)}
            />
            <LogField
              label="Angle"
              value={entry.degrees ?? decisions.facet.degrees}
              range={library.ranges["facet.degrees"]!}
              show={(value) => `${Number(value.toPrecision(3))}°`}
              read={numbers("°|deg")}
              onMove={(degrees) => set({ ...entry, degrees }, true)}
              onSet={(degrees) => set({ ...entry, degrees }, false)}
            />
            <label className="flex items-center gap-2 text-[13px]">
              Longest edge
              <LengthField
                label="Longest edge of the exception"
                value={entry.longest ?? null}
                empty="as the job"
                onSet={(longest) => set({ ...entry, longest }, false)}
              />
            </label>
            <label className="flex items-center gap-2 text-[13px]">
              Shortest edge
              <LengthField
                label="Shortest edge of the exception"
                value={entry.shortest ?? null}
                empty="as the job"
                onSet={(shortest) => set({ ...entry, shortest }, false)}
              />
            </label>
            {entry.made !== "hand" && (
              <label className="flex items-center gap-2 text-[13px]">
                <input
                  type="checkbox"
                  checked={entry.pinned}
                  onChange={(event) => set({ ...entry, pinned: event.target.checked }, false)}
                  className="size-4 accent-ink"
                />
                pinned: stays when this is worked out anew
              </label>
            )}
          </>
        )}
        onChange={change}
      />
    </>
  );
}

type Entry = FacetNow["exceptions"][number];
const MADE = { hand: "", view: "for lookouts", allowance: "for the allowance" };
