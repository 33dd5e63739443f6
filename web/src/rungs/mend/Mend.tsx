import { useBench } from "../../bench/bench";
import { ByHand } from "./ByHand";
import { Damage } from "./Damage";
import { Operations } from "./operations/Operations";
import { Join, Shells } from "./Shells";

/** What is wrong with triangles, what is done to them, who differs, and what is done by hand. */
export function Mend() {
  const { result, structure, view } = useBench();
  if (!result || !structure) return <p className="text-ink-soft">The source is not read yet.</p>;
  const chosen = [...view.chosen].flatMap((part) => (structure.parts[part]?.surface ? [structure.parts[part]] : []));
  const only = chosen.length === 1 ? structure.parts.indexOf(chosen[0]!) : -1;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2 text-[13.5px]">
      <Damage />
      <Operations chosen={chosen} />
      {only >= 0 && <Shells part={only} chosen={chosen[0]!} />}
      {chosen.length > 1 && <Join chosen={chosen} />}
      <ByHand chosen={chosen} />
    </div>
  );
}
