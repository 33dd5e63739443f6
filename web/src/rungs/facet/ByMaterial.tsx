import { useMemo, useState } from "react";

import type { Result, Structure } from "../../api/client";
import { useBench } from "../../bench/bench";
import { partAt } from "../../stage/cuts";
import { Fold, Folded, Unfold } from "../../ui/controls";
import { count } from "../../ui/format";
import { Swatch } from "../../ui/Swatch";

/** Materials that are told one by one. */
const TOLD = 12;

interface Row {
  name: string;
  colour: string;
  /** Triangles of every placement, and each part counted once. */
  all: number;
  once: number;
  /** What all of it was before the last change. */
  was: number;
}

/** What triangles are spent on, by what wears them. */
export function ByMaterial() {
  const { result, structure } = useBench();
  const [open, setOpen] = useState(false);
  const rows = useMemo(() => (open && result && structure ? rowsOf(structure, result) : []), [open, structure, result]);
  const changed = rows.some((row) => row.was !== row.all);
  if (!result?.triangles) return null;
  return (
    <Fold open={open} onOpen={setOpen}>
      <Unfold open={open} name="Triangles by material">
        {result.materials.length}
      </Unfold>
      <Folded className="py-1.5">
        <table className="w-full text-[12.5px] tabular-nums">
          <thead>
            <tr className="text-left text-ink-soft">
              <th className="font-medium">Material</th>
              {changed && <th className="text-right font-medium">before</th>}
              <th className="text-right font-medium">in all</th>
              <th className="text-right font-medium">each part once</th>
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, TOLD).map((row) => (
              <tr key={row.name}>
                <th scope="row" className="flex items-center gap-1.5 font-normal">
                  {row.colour && <Swatch colour={row.colour} />}
                  <span className="truncate">{row.name}</span>
                </th>
                {changed && <td className="text-right text-ink-soft">{count(row.was)}</td>}
                <td className="text-right">{count(row.all)}</td>
                <td className="text-right">{count(row.once)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {rows.length > TOLD && (
          <p className="text-[12.5px] text-ink-soft">and {count(rows.length - TOLD)} more materials</p>
        )}
      </Folded>
    </Fold>
  );
}

function rowsOf(structure: Structure, result: Result): Row[] {
  const partOf = partAt(structure, result);
  const palette = new Map(result.palette.map((item) => [item.id, item]));
  const found = new Map<string, Row & { parts: Set<number> }>();
  result.placements.forEach((node, at) => {
    const dress = result.dresses[result.dress_of[at]!]!;
    const only = dress.materials.length === 1 ? palette.get(dress.materials[0]!) : undefined;
    const name = only?.name ?? "several materials";
    let row = found.get(name);
    if (!row) found.set(name, (row = { name, colour: only?.colour ?? "", all: 0, once: 0, was: 0, parts: new Set() }));
    const part = partOf(node);
    const triangles = result.parts[part]?.triangles ?? 0;
    row.all += triangles;
    row.was += result.parts[part]?.triangles_before ?? triangles;
    if (!row.parts.has(part)) row.once += triangles;
    row.parts.add(part);
  });
  return [...found.values()].sort((one, two) => two.all - one.all);
}
