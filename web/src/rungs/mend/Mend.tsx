import { useBench } from "../../bench/bench";
import { Operations } from "../../bench/operations/Operations";
import { ByHand } from "./ByHand";
import { Damage } from "./Damage";
import { OPERATIONS } from "./operations/table";
import { WeldCurve } from "./WeldCurve";
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
      <Operations
        rung="mend"
        operations={OPERATIONS}
        chosen={chosen}
        more={(operation, part, step) => operation.does === "weld" && <WeldCurve part={part} step={step} />}
      />
      {only >= 0 && <Shells part={only} chosen={chosen[0]!} />}
      {chosen.length > 1 && <Join chosen={chosen} />}
      <ByHand chosen={chosen} />
    </div>
  );
}
