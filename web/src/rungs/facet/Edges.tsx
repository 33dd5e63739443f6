import type { Decisions } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Named } from "../../ui/controls";
import { LengthField, ShareField } from "../../ui/fields";
import { count, metric } from "../../ui/format";

type FacetNow = Decisions["facet"];

/** How long and how short sides of triangles may be, and what may be spent on long thin ones. */
export function Edges({
  facet,
  onSet,
}: {
  facet: FacetNow;
  onSet: (change: Partial<FacetNow>, label: string) => void;
}) {
  const { result } = useBench();
  const { longest, shortest } = facet;
  const spent = result?.parts.reduce((sum, part) => sum + (part.effects.even ?? 0), 0) ?? 0;
  return (
    <>
      <Named name="Longest edge">
        <LengthField
          label="Longest edge"
          value={longest ?? null}
          empty="any"
          onSet={(length) => onSet({ longest: length }, length === null ? "Edges of any length" : "Longest edge")}
        />
      </Named>
      <Named name="Shortest edge">
        <LengthField
          label="Shortest edge"
          value={shortest ?? null}
          empty="any"
          onSet={(length) =>
            onSet({ shortest: length }, length === null ? "Edges as short as they come" : "Shortest edge")
          }
        />
      </Named>
      {longest != null && shortest != null && shortest > longest / 2 && (
        <p className="text-[12.5px] text-ink-soft">
          Sides over {metric(longest)} are halved last, so that some come out shorter than {metric(shortest)}.
        </p>
      )}
      <Named name="Slivers">
        <ShareField
          label="Slivers"
          value={facet.even ?? null}
          of="more"
          empty="left as they are"
          least={0.01}
          most={2}
          onSet={(even) => onSet({ even }, even === null ? "Slivers left" : "Slivers cut across")}
        />
      </Named>
      {facet.even != null && spent > 0 && (
        <p className="text-[12.5px] text-ink-soft">
          Cutting them across took {count(spent)} triangles, each part counted once.
        </p>
      )}
    </>
  );
}
