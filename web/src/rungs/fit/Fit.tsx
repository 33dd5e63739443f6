import { useState } from "react";

import { useBench } from "../../bench/bench";
import { Button, Fact, Fold, Folded, Select, Unfold } from "../../ui/controls";
import { LengthField } from "../../ui/fields";
import { box, boxImperial, metric, plural } from "../../ui/format";
import { Beside } from "./Beside";
import { Measures } from "./Measures";
import { Place } from "./Place";
import { SourceFitting } from "./SourceFitting";
import { TrueUp } from "./TrueUp";
import { Turns } from "./Turns";
import { useFit } from "./useFit";

/** Size, orientation and place of every source, with proof: settled once, here. */
export function Fit() {
  const { decisions, decide, result, job, view, structure } = useBench();
  const fit = useFit();
  // Ways are of one source, or of all: chosen once for the whole rung.
  const [of, setOf] = useState("");
  if (!result) return <p className="text-[13.5px] text-ink-soft">Nothing is read yet.</p>;
  const own = new Set(decisions.fit.into_mesh_parts ?? []);
  const refs = [...view.chosen].flatMap((part) => structure?.parts[part]?.ref ?? []);
  const several = result.sources.length > 1;
  const names = Object.fromEntries(job.sources.map(({ ref, name }) => [ref, name]));
  const chosen = result.sources.some((source) => source.ref === of) ? of : "";
  const set = (change: Partial<typeof decisions.fit>, label: string) =>
    decide((now) => ({ ...now, fit: { ...now.fit, ...change } }), label);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2.5 text-[13.5px]">
      <dl>
        <Fact name="Overall size">
          <b className="font-semibold">{box(result.size)}</b>
          <span className="block text-[12px] text-ink-soft">{boxImperial(result.size)}</span>
        </Fact>
      </dl>
      {result.sources.map((source) => (
        <SourceFitting
          key={source.ref}
          source={source}
          known={fit?.sources.find((item) => item.ref === source.ref)}
          name={names[source.ref] ?? source.ref}
          alone={!several}
        />
      ))}
      {several && (
        <label className="grid grid-cols-[76px_1fr] items-center gap-2.5">
          Below for
          <Select
            label="Which source the ways below are for"
            value={chosen || "all"}
            options={[
              { value: "all", label: "all sources together" },
              ...result.sources.map(({ ref }) => ({ value: ref, label: names[ref] ?? ref })),
            ]}
            onChange={(next) => setOf(next === "all" ? "" : next)}
          />
        </label>
      )}
      <Section name="True up" said="by a known length">
        <TrueUp />
      </Section>
      <Section name="Turn" said="quarters, faces, edges">
        <Turns of={chosen} />
      </Section>
      <Section name="Place" said={result.offset.some(Boolean) ? "origin moved" : "origin, ground"}>
        <Place of={chosen} fit={fit} />
      </Section>
      {several && (
        <Section name="Side by side" said="pairs of points">
          <Beside of={chosen} names={names} />
        </Section>
      )}
      <Section
        name="Measure"
        said={fit?.notes.length ? plural(fit.notes.length, "measurement") : "against the drawing"}
      >
        <Measures fit={fit} />
      </Section>
      <Section name="In the mesh" said={decisions.fit.into_mesh ? "places go in" : "places in nodes"}>
        <p className="pb-1.5 text-[12.5px] text-ink-soft">
          {fit &&
            (fit.meshes_in_place > fit.meshes
              ? `Places go into nodes, so ${plural(fit.meshes, "mesh", "meshes")} ${fit.meshes === 1 ? "serves" : "serve"} ${fit.meshes_in_place.toLocaleString("en-US")} placements. In the mesh each is one of its own.`
              : "Every mesh stands once, so nothing is shared that would be lost.")}
        </p>
        <Button
          on={decisions.fit.into_mesh}
          onClick={() =>
            set(
              { into_mesh: !decisions.fit.into_mesh },
              decisions.fit.into_mesh ? "places in nodes" : "places into the mesh",
            )
          }
        >
          Scale, turn and place into every mesh
        </Button>
        {refs.length > 0 && !decisions.fit.into_mesh && (
          <Button
            className="mt-1.5"
            on={refs.every((ref) => own.has(ref))}
            onClick={() => {
              const all = refs.every((ref) => own.has(ref));
              const next = all ? [...own].filter((ref) => !refs.includes(ref)) : [...new Set([...own, ...refs])];
              set(
                { into_mesh_parts: next },
                all ? "places of chosen parts in nodes" : "places of chosen parts into the mesh",
              );
            }}
          >
            Only of {plural(refs.length, "chosen part")}
          </Button>
        )}
      </Section>
      <label className="grid grid-cols-[76px_1fr] items-center gap-2.5 border-t border-dashed border-line pt-2">
        Yardstick
        <LengthField
          label="Height of the yardstick"
          value={decisions.fit.yardstick ?? 1.75}
          empty="1.75 m"
          onSet={(yardstick) => set({ yardstick: yardstick ?? 1.75 }, `yardstick ${metric(yardstick ?? 1.75)}`)}
        />
      </label>
    </div>
  );
}

/** A way to fit with its name, folded until it is wanted. */
function Section({ name, said, children }: { name: string; said: string; children: React.ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Fold
      role="group"
      aria-label={name}
      open={open}
      onOpen={setOpen}
      className="border-t border-dashed border-line pt-2"
    >
      <Unfold open={open} name={name}>
        {said}
      </Unfold>
      <Folded className="pt-2">{children}</Folded>
    </Fold>
  );
}
