import type { Result, Structure } from "../api/client";

/** A tree to be shown: nodes in columns, each behind what it stands in, branches in a row; `nodeOf` says which node of the
 *  structure each is, -1 for a group that only the job has. */
export interface TreeShape {
  parts: Structure["parts"];
  node_names: string[];
  node_parents: number[];
  node_parts: number[];
  nodeOf: (at: number) => number;
}

/** The source's tree, by the names in force. */
export function sourceTree(structure: Structure, result: Result | undefined): TreeShape {
  const { parts, node_parents, node_parts } = structure;
  let { node_names } = structure;
  if (result?.names) {
    node_names = [...node_names];
    result.placements.forEach((node, at) => (node_names[node] = result.names![at]!));
  }
  return { parts, node_names, node_parents, node_parts, nodeOf: (at) => at };
}

/** The job's own tree, with what entered in it. */
export function ownTree(structure: Structure, result: Result): TreeShape {
  const tree = result.tree!;
  const groups = new Map<number, number[]>();
  tree.parents.forEach((parent, at) => {
    const known = groups.get(parent);
    if (known) known.push(at);
    else groups.set(parent, [at]);
  });
  const held = new Map<number, number[]>();
  tree.of.forEach((group, at) => {
    const known = held.get(group);
    if (known) known.push(at);
    else held.set(group, [at]);
  });
  const names: string[] = [];
  const parents: number[] = [];
  const parts: number[] = [];
  const nodes: number[] = [];
  const walk = (group: number, above: number) => {
    for (const below of groups.get(group) ?? []) {
      const at = names.length;
      names.push(tree.names[below]!);
      parents.push(above);
      parts.push(-1);
      nodes.push(-1);
      walk(below, at);
    }
    for (const at of held.get(group) ?? []) {
      const node = result.placements[at]!;
      names.push(result.names?.[at] ?? structure.node_names[node] ?? "");
      parents.push(above);
      parts.push(structure.node_parts[node]!);
      nodes.push(node);
    }
  };
  walk(-1, -1);
  return {
    parts: structure.parts,
    node_names: names,
    node_parents: parents,
    node_parts: parts,
    nodeOf: (at) => nodes[at]!,
  };
}

/** What parts are called whose placements were renamed: as their first ones are. */
export function renamedParts(structure: Structure, result: Result | undefined): Map<number, string> {
  const found = new Map<number, string>();
  const seen = new Set<number>();
  result?.names?.forEach((name, at) => {
    const node = result.placements[at]!;
    const part = structure.node_parts[node]!;
    if (seen.has(part)) return;
    seen.add(part);
    if (name !== (structure.node_names[node] || structure.parts[part]!.label)) found.set(part, name);
  });
  return found;
}
