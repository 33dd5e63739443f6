import { type ReactNode, useMemo, useState } from "react";

import { Button, Fold, Folded, Select, Unfold } from "../../ui/controls";
import { LengthField } from "../../ui/fields";
import { plural } from "../../ui/format";
import { useBench } from "../bench";
import { moved, reach, type Whom, whomSaid } from "./entries";

const KINDS = [
  { value: "parts", label: "chosen parts" },
  { value: "layer", label: "a layer" },
  { value: "material", label: "a material" },
  { value: "class", label: "a class" },
  { value: "selection", label: "a selection" },
  { value: "source", label: "a source" },
  { value: "smaller", label: "parts smaller than" },
  { value: "larger", label: "parts larger than" },
];

/**
 * Who differs from the job, in order: the first entry that speaks of a setting decides it. The same list for every rung
 * that has one; a rung says what an entry holds beside for whom.
 */
export function Exceptions<E extends Whom>({
  rung,
  entries,
  what,
  said,
  start,
  onChange,
}: {
  rung: "facet_by" | "mend_by" | "trim_by";
  entries: readonly E[];
  /** The controls of one entry. */
  what: (entry: E, set: (next: E, moving: boolean) => void) => ReactNode;
  /** What an entry does, in a few words. */
  said: (entry: E) => string;
  start: (whom: Whom) => E;
  onChange: (change: (now: readonly E[]) => E[], label: string, moving?: boolean) => void;
}) {
  const { structure, result } = useBench();
  const [open, setOpen] = useState<number | null>(null);
  const [dragged, setDragged] = useState<number | null>(null);
  const names = useMemo(() => new Map(result?.palette.map((item) => [item.id, item.name])), [result?.palette]);
  const counts = useMemo(() => reach(result, rung, entries.length), [result, rung, entries.length]);
  const replace = (at: number, next: E, moving: boolean) =>
    onChange(
      (now) => now.map((entry, place) => (place === at ? next : entry)),
      `Exception for ${whomSaid(next, structure, names)}`,
      moving,
    );
  const shift = (from: number, to: number) => {
    setOpen(null);
    onChange((now) => moved(now, from, to), "Order of exceptions");
  };
  return (
    <section
      aria-label="Exceptions"
      className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-dashed border-line pt-2"
    >
      <p className="font-semibold">
        Exceptions{" "}
        {entries.length > 1 && (
          <span className="text-[12.5px] font-normal text-ink-soft">the first that speaks of a setting decides</span>
        )}
      </p>
      <ol className="grid grid-cols-[minmax(0,1fr)]">
        {entries.map((entry, at) => {
          const whom = whomSaid(entry, structure, names);
          return (
            <li
              key={at}
              draggable={open !== at}
              onDragStart={() => setDragged(at)}
              onDragEnd={() => setDragged(null)}
              onDragOver={(event) => dragged !== null && event.preventDefault()}
              onDrop={(event) => {
                event.preventDefault();
                if (dragged !== null && dragged !== at) shift(dragged, at);
                setDragged(null);
              }}
              className={`border-t border-cloth-deep py-1 ${dragged === at ? "opacity-50" : ""}`}
            >
              <Fold open={open === at} onOpen={(now) => setOpen(now ? at : null)}>
                <Unfold open={open === at} name={`${at + 1}. ${whom}`}>
                  {plural(counts[at] ?? 0, "part")}
                </Unfold>
                <p className="pl-[22px] text-[12.5px] text-ink-soft">{said(entry) || "nothing different yet"}</p>
                <Folded className="grid grid-cols-[minmax(0,1fr)] gap-2 py-1.5">
                  {what(entry, (next, moving) => replace(at, next, moving))}
                  <div className="flex flex-wrap gap-1.5">
                    <Button disabled={at === 0} aria-label={`Move ${whom} up`} onClick={() => shift(at, at - 1)}>
                      Up
                    </Button>
                    <Button
                      disabled={at === entries.length - 1}
                      aria-label={`Move ${whom} down`}
                      onClick={() => shift(at, at + 1)}
                    >
                      Down
                    </Button>
                    <Button
                      aria-label={`${whom} as the job again`}
                      onClick={() => {
                        setOpen(null);
                        onChange((now) => now.filter((_, place) => place !== at), `${whom} as the job again`);
                      }}
                    >
                      As the job again
                    </Button>
                  </div>
                </Folded>
              </Fold>
            </li>
          );
        })}
      </ol>
      <NewEntry
        onAdd={(whom) => {
          onChange((now) => [start(whom), ...now], `Exception for ${whomSaid(whom, structure, names)}`);
          setOpen(0);
        }}
      />
    </section>
  );
}

/** For whom a new exception is to hold; it is put before the others. */
function NewEntry({ onAdd }: { onAdd: (whom: Whom) => void }) {
  const { structure, result, view, job, decisions } = useBench();
  const [by, setBy] = useState<Whom["by"]>("parts");
  const refs = [...view.chosen].flatMap((part) => (structure?.parts[part]?.surface ? [structure.parts[part].ref] : []));
  const add = (more: Partial<Whom>) => onAdd({ by, parts: [], match: "", source: null, size: null, ...more });
  const layers = (structure?.layers ?? []).map((layer) => ({ value: layer, label: layer }));
  const materials = (result?.materials ?? []).map(({ id, name, colour }) => ({
    value: id,
    label: name,
    swatch: colour,
  }));
  const classes = [...new Set(structure?.tags.flatMap(({ ifc_class }) => ifc_class ?? []))].sort();
  const named = (words: string[]) => words.map((value) => ({ value, label: value }));
  const sources = job.sources.map(({ ref, name }) => ({ value: ref, label: name }));
  const lists = {
    layer: layers,
    material: materials,
    class: named(classes),
    selection: named(decisions.sort.selections.map(({ name }) => name)),
    source: sources,
  };
  return (
    <div className="grid grid-cols-[auto_minmax(0,1fr)_minmax(0,1fr)] items-center gap-1.5 text-[12.5px]">
      <span className="text-ink-soft">Except</span>
      <Select label="Except whom" value={by} options={KINDS} onChange={(next) => setBy(next as Whom["by"])} />
      {by === "parts" ? (
        <Button disabled={!refs.length} onClick={() => add({ parts: refs })}>
          {refs.length ? `Add ${plural(refs.length, "part")}` : "Choose some"}
        </Button>
      ) : by === "smaller" || by === "larger" ? (
        <LengthField label="Size" value={null} empty="100 mm" onSet={(size) => size && add({ size })} />
      ) : (
        <Select
          label={`Which ${by}`}
          value=""
          empty={lists[by].length ? "Choose…" : "there is none"}
          options={lists[by]}
          onChange={(match) => add(by === "source" ? { source: match } : { match })}
        />
      )}
    </div>
  );
}
