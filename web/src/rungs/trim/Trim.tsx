import { useState } from "react";

import { useBench } from "../../bench/bench";
import { Operations } from "../../bench/operations/Operations";
import type { Operation } from "../../bench/operations/operation";
import { GradesBoard } from "./grades/GradesBoard";
import { Levels } from "./Levels";
import { Limits } from "./Limits";
import { Lookout } from "./Lookout";
import { flats } from "./operations/flats";
import { reduce } from "./operations/reduce";
import { ReduceTo } from "./ReduceTo";

const OPERATIONS = [flats, reduce] as unknown as Operation[];

/** What is allowed, what is made lighter and by how much, and which lighter levels stand beside the full one. */
export function Trim() {
  const { result, structure, view, decisions } = useBench();
  const [board, setBoard] = useState<number[] | null>(null);
  if (!result || !structure) return <p className="text-ink-soft">The source is not read yet.</p>;
  const chosen = [...view.chosen].flatMap((part) => (structure.parts[part]?.surface ? [structure.parts[part]] : []));
  // Everything is reduced only where somebody said so; from then on it can be changed or switched off here.
  const ofAll = decisions.trim.steps?.some((step) => step.does === "reduce") ? OPERATIONS : OPERATIONS.slice(0, 1);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2.5 text-[13.5px]">
      <Limits />
      <ReduceTo chosen={chosen} onGrades={setBoard} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-2 border-t border-dashed border-line pt-2">
        <Operations rung="trim" operations={OPERATIONS} ofAll={ofAll} chosen={chosen} />
      </div>
      <Levels />
      <Lookout />
      {board && <GradesBoard parts={board} onClose={() => setBoard(null)} />}
    </div>
  );
}
