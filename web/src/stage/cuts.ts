import type { Result, Structure } from "../api/client";

/** The part of the result that stands at a node: the structure's, unless a polygon cut it. */
export function partAt(structure: Structure, result: Result): (node: number) => number {
  const cut = new Map(result.cut_nodes.map((node, at) => [node, structure.parts.length + at]));
  return (node) => cut.get(node) ?? structure.node_parts[node]!;
}

/** The parts of the structure that parts of the result are, or were cut from: each once. */
export function whole(structure: Structure, result: Result | undefined, parts: Iterable<number>): number[] {
  const count = structure.parts.length;
  const owners = [...parts].map((part) =>
    part < count ? part : structure.node_parts[result?.cut_nodes[part - count] ?? -1],
  );
  return [...new Set(owners.filter((part): part is number => part !== undefined && part >= 0))];
}
