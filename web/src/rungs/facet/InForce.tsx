import type { Decisions, Result } from "../../api/client";
import { useBench } from "../../bench/bench";
import { count, metric } from "../../ui/format";

type Made = Result["parts"][number];

/** Which of the limits is the one in force: of the chosen part, or over all parts. */
export function InForce({ facet }: { facet: Decisions["facet"] }) {
  const { result, view, structure } = useBench();
  if (!result) return null;
  const [only] = view.chosen.size === 1 ? view.chosen : [];
  const part = only === undefined ? undefined : result.parts[only];
  const one = part ?? result.parts.find((item) => item.turning > 0 && !item.facet_by.length);
  if (!one?.turning) return null;
  return (
    <p className="text-[12.5px] text-ink-soft">
      {(part || facet.chord.kind === "absolute") && (
        <>
          {part ? `Of ${structure!.parts[only!]!.label}, curves` : "Curves"} under {metric(one.turning)} radius are as
          fine as the angle asks, larger ones as the chord error asks.{" "}
        </>
      )}
      {part ? ofPart(part) : ofAll(result.parts)}
    </p>
  );
}

function ofPart(part: Made): string {
  if (part.by_angle == null) return "";
  const angle = Math.round(100 * part.by_angle);
  const told =
    angle === 0
      ? "The chord error decides all of its curves. "
      : angle === 100
        ? "The angle decides all of its curves. "
        : `The angle decides ${angle} % of what is divided across its curves, the chord error the rest. `;
  const { shortest, longest } = part.effects;
  return (
    told +
    (shortest ? `The shortest edge took ${count(shortest)} triangles away. ` : "") +
    (longest ? `The longest edge added ${count(longest)}.` : "")
  );
}

/** How many parts each limit decides most of. */
function ofAll(parts: readonly Made[]): string {
  const curved = parts.filter((part) => part.by_angle != null);
  if (!curved.length) return "";
  const angle = curved.filter((part) => part.by_angle! > 0.5).length;
  const counts = [
    [angle, "the angle"],
    [curved.length - angle, "the chord error"],
    [parts.filter((part) => part.effects.shortest).length, "the shortest edge"],
    [parts.filter((part) => part.effects.longest).length, "the longest edge"],
  ] as const;
  return `Parts by what decides most of their curves: ${counts
    .filter(([many]) => many)
    .map(([many, name]) => `${count(many)} ${name}`)
    .join(", ")}.`;
}
