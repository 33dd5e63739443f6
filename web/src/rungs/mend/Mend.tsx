import type { Part } from "../../api/client";
import { goTo, useBench } from "../../bench/bench";
import { whole } from "../../stage/cuts";
import { Button, Fact } from "../../ui/controls";
import { count, plural } from "../../ui/format";
import { Operations } from "./operations/Operations";

/** Operations on meshes, which way surfaces face, and turning them by hand. */
export function Mend() {
  const bench = useBench();
  const { result, structure, decisions, decide, view, setView } = bench;
  if (!result || !structure) return <p className="text-ink-soft">The source is not read yet.</p>;
  const flipped = decisions.mend.flipped;
  const chosen = [...view.chosen].flatMap((part) => (structure.parts[part]?.surface ? [structure.parts[part]] : []));
  const { inside_out: insideOut, open_parts: open } = result;
  const flip = (which: Part[]) =>
    decide(
      (now) => {
        const next = new Set(now.mend.flipped);
        for (const { ref } of which) if (!next.delete(ref)) next.add(ref);
        return { ...now, mend: { ...now.mend, flipped: [...next] } };
      },
      `Flipped ${which.length === 1 ? which[0]!.label : plural(which.length, "part")}`,
    );
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2 text-[13.5px]">
      <Operations chosen={chosen} />
      <dl className="border-t border-dashed border-line pt-2">
        <Fact name="Inside out">
          {insideOut.length ? (
            <Button quiet className="-mr-2 text-signal" onClick={() => goTo(bench, insideOut)}>
              {plural(insideOut.length, "part")}
            </Button>
          ) : (
            "none"
          )}
        </Fact>
        <Fact name="Open, with an edge where they end">
          {open.length ? (
            <Button quiet className="-mr-2" onClick={() => goTo(bench, open)}>
              {plural(open.length, "part")}
            </Button>
          ) : (
            "none"
          )}
        </Fact>
        <Fact name="Turned by hand">{count(flipped.length)}</Fact>
      </dl>
      <div className="flex flex-wrap gap-2">
        <Button
          on={view.look === "facing"}
          onClick={() => setView({ look: view.look === "facing" ? "shaded" : "facing" })}
        >
          Show facing
        </Button>
        <Button disabled={!chosen.length} onClick={() => flip(chosen)}>
          {chosen.length > 1 ? `Flip ${chosen.length} parts` : "Flip the chosen part"}
        </Button>
        {insideOut.length > 0 && (
          <Button main onClick={() => flip(whole(structure, result, insideOut).map((part) => structure.parts[part]!))}>
            Turn all outward
          </Button>
        )}
      </div>
      <p className="text-[12.5px] text-ink-soft">
        Violet stripes mark surfaces seen from behind.{" "}
        {chosen.length ? "" : "Choose a part on the stage or in the ledger to flip it."}
      </p>
    </div>
  );
}
