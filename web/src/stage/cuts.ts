import type { Result, Structure } from "../api/client";

/** The part of the result that stands at a node: the structure's, unless a polygon cut it. */
export function partAt(structure: Structure, result: Result): (node: number) => number {
  const cut = new Map(result.cut_nodes.map((node, at) => [node, result.base_parts + at]));
  return (node) => cut.get(node) ?? structure.node_parts[node]!;
}

/** The parts of the structure that parts of the result are, or were cut from: each once. */
export function whole(structure: Structure, result: Result | undefined, parts: Iterable<number>): number[] {
  const first = result?.base_parts ?? structure.parts.length;
  const owners = [...parts].map((part) => {
    const node = part < first ? undefined : result?.cut_nodes[part - first];
    return node === undefined ? part : structure.node_parts[node];
  });
  return [...new Set(owners.filter((part): part is number => part !== undefined && part >= 0))];
}

/** A structure with what Mend added: shells that were taken out, joined parts, and the nodes where they stand. */
export interface Grown extends Structure {
  /** Of the nodes behind those of the sources: whose source they are of, and where they stand in it, column-major. */
  added: { member: number; world: number[] }[];
}

const grown = new WeakMap<Result["added_nodes"], { of: Structure; made: Grown }>();

/** The structure as the result has it. New nodes stand last, on the highest level of the tree. */
export function grow(structure: Structure, result: Result): Structure {
  const nodes = result.added_nodes;
  if (!nodes.length) return structure;
  const known = grown.get(nodes);
  if (known?.of === structure) return known.made;
  // What has no tag of its own is a body like any other.
  const body = structure.tags.findIndex((tag) => tag.kind === "body" && !tag.ifc_class && !tag.storey);
  const tags = body < 0 ? [...structure.tags, PLAIN] : structure.tags;
  const made: Grown = {
    ...structure,
    tags,
    parts: [...structure.parts, ...result.cut_parts, ...result.added_parts],
    node_names: [...structure.node_names, ...nodes.map((node) => node.name)],
    node_parents: [...structure.node_parents, ...nodes.map(() => -1)],
    node_parts: [...structure.node_parts, ...nodes.map((node) => node.part)],
    node_tags: [...structure.node_tags, ...nodes.map(() => (body < 0 ? structure.tags.length : body))],
    added: nodes.map(({ member, world }) => ({ member, world })),
  };
  grown.set(nodes, { of: structure, made });
  return made;
}

const PLAIN: Structure["tags"][number] = { kind: "body", ifc_class: null, storey: null, materials: [] };
