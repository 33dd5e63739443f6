import type { Row } from "./rows";
import type { TreeShape } from "./trees";

/** For each node how many placed parts stand before it, and how many of those are chosen: parts, or single places. */
export function countChosen(
  { node_parts: parts, nodeOf }: Pick<TreeShape, "node_parts" | "nodeOf">,
  chosen: ReadonlySet<number>,
  places: ReadonlySet<number> | null = null,
) {
  const placed = new Uint32Array(parts.length + 1);
  const mine = new Uint32Array(parts.length + 1);
  for (let node = 0; node < parts.length; node++) {
    const part = parts[node]!;
    const is = part >= 0 && (places ? places.has(nodeOf(node)) : chosen.has(part));
    placed[node + 1] = placed[node]! + (part >= 0 ? 1 : 0);
    mine[node + 1] = mine[node]! + (is ? 1 : 0);
  }
  return { placed, mine };
}

/** Whether what a row stands for is chosen; of a group, or of a part of which single places are, all of it, some, or none. */
export function isChosen(
  row: Row,
  chosen: ReadonlySet<number>,
  counts: ReturnType<typeof countChosen> | null,
  partly: ReadonlySet<number> | null = null,
): boolean | "some" {
  if (!counts) return row.part >= 0 && chosen.has(row.part) && (partly?.has(row.part) ? "some" : true);
  if (!chosen.size) return false;
  const end = row.key + row.below + 1;
  const mine = counts.mine[end]! - counts.mine[row.key]!;
  if (!mine) return false;
  return mine === counts.placed[end]! - counts.placed[row.key]! || "some";
}

/** The parts of which some places are chosen, but not all; none where whole parts are. */
export function partlyChosen(nodeParts: readonly number[], places: ReadonlySet<number> | null): Set<number> | null {
  if (!places) return null;
  const found = new Set<number>();
  const mine = new Set([...places].map((node) => nodeParts[node]!));
  nodeParts.forEach((part, node) => {
    if (mine.has(part) && !places.has(node)) found.add(part);
  });
  return found;
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

/** The placements, by the structure's nodes, that rows stand for: in a tree their own, in the table all of their parts. */
export function nodesOf(
  rows: Row[],
  shape: Pick<TreeShape, "node_parts" | "nodeOf">,
  tree: boolean,
  nodeParts: readonly number[],
): Set<number> {
  const found = new Set<number>();
  if (!tree) {
    const parts = new Set(rows.map(({ part }) => part));
    nodeParts.forEach((part, node) => {
      if (part >= 0 && parts.has(part)) found.add(node);
    });
    return found;
  }
  for (const row of rows)
    for (let at = row.key; at <= row.key + row.below; at++) if (shape.node_parts[at]! >= 0) found.add(shape.nodeOf(at));
  return found;
}
