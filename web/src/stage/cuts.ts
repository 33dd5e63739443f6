import type { Result, Structure } from "../api/client";

/** The part of the result that stands at a node: the structure's, unless a polygon cut it. */
export function partAt(structure: Structure, result: Result): (node: number) => number {
  const cut = new Map(result.cut_nodes.map((node, at) => [node, structure.parts.length + at]));
  return (node) => cut.get(node) ?? structure.node_parts[node]!;
}
