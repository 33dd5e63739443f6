import type { Row } from "./rows";
import type { TreeShape } from "./trees";

/** For each node how many placed parts stand before it, and how many of those are chosen. */
export function countChosen(structure: Pick<TreeShape, "node_parts">, chosen: ReadonlySet<number>) {
  const { node_parts: parts } = structure;
  const placed = new Uint32Array(parts.length + 1);
  const mine = new Uint32Array(parts.length + 1);
  for (let node = 0; node < parts.length; node++) {
    const part = parts[node]!;
    placed[node + 1] = placed[node]! + (part >= 0 ? 1 : 0);
    mine[node + 1] = mine[node]! + (part >= 0 && chosen.has(part) ? 1 : 0);
  }
  return { placed, mine };
}

/** Whether a row's part is chosen; of a group all that stands below it, some, or none. */
export function isChosen(
  row: Row,
  chosen: ReadonlySet<number>,
  counts: ReturnType<typeof countChosen> | null,
): boolean | "some" {
  if (row.part >= 0) return chosen.has(row.part);
  if (!counts || !chosen.size) return false;
  const end = row.key + row.below + 1;
  const mine = counts.mine[end]! - counts.mine[row.key]!;
  if (!mine) return false;
  return mine === counts.placed[end]! - counts.placed[row.key]! || "some";
}

/** The parts that rows stand for, those below a group too. */
export function partsOf(rows: Row[], structure: Pick<TreeShape, "node_parts">, tree: boolean): Set<number> {
  const found = new Set<number>();
  for (const row of rows)
    if (row.part >= 0) found.add(row.part);
    else if (tree)
      for (let node = row.key; node <= row.key + row.below; node++) {
        const part = structure.node_parts[node]!;
        if (part >= 0) found.add(part);
      }
  return found;
}
