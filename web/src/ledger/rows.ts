import type { Result, Structure } from "../api/client";
import { partAt } from "../stage/cuts";

/** One line of the ledger: a part in the table, a node in the tree. */
export interface Row {
  key: number;
  name: string;
  depth: number;
  part: number;
  /** Nodes below it in the tree; 0 for a part. */
  below: number;
}

/** What a part wears and why, in words; the first of its placements speaks for it. */
export interface Worn {
  layer: string | null;
  /** What a building calls it: the class, and the storey of the first placement. */
  kind: string;
  storey: string;
  /** The result's part at its first placement: another than the structure's where a polygon cut it. */
  made: number;
  /** Placements that enter, and their triangles together; null until all of them are meshed. */
  times: number;
  triangles: number | null;
  materials: string[];
  why: string;
  loose: boolean;
}

/** Rows of the table: every part with a surface whose name, layer, class or material holds the text; air and holes only when they enter. */
export function tableRows(
  structure: Structure,
  worn: Map<number, Worn>,
  names: Map<string, string>,
  text: string,
): Row[] {
  const wanted = text.trim().toLowerCase();
  const matter = new Set<number>();
  structure.node_parts.forEach((part, node) => {
    if (structure.tags[structure.node_tags[node]!]?.kind === "body") matter.add(part);
  });
  return structure.parts.flatMap((part, index) => {
    if (!part.surface || !(matter.has(index) || worn.has(index))) return [];
    const dress = worn.get(index);
    const words = [
      part.label,
      dress?.layer ?? "",
      dress?.kind ?? "",
      dress?.storey ?? "",
      ...(dress?.materials.map((id) => names.get(id) ?? id) ?? []),
    ];
    if (wanted && !words.some((word) => word.toLowerCase().includes(wanted))) return [];
    return [{ key: index, name: part.label, depth: 0, part: index, below: 0 }];
  });
}

/** What of a tree does not change while one looks at it: nodes below each, depth, names without capitals. */
function shapeOf(structure: Structure) {
  let found = shapes.get(structure);
  if (!found) {
    const { node_names: names, node_parents: parents } = structure;
    const count = names.length;
    const below = new Uint32Array(count);
    const depth = new Uint16Array(count);
    for (let node = count - 1; node >= 0; node--) if (parents[node]! >= 0) below[parents[node]!]! += below[node]! + 1;
    for (let node = 0; node < count; node++) depth[node] = parents[node]! < 0 ? 0 : depth[parents[node]!]! + 1;
    found = { below, depth, lower: names.map((name) => name.toLowerCase()) };
    shapes.set(structure, found);
  }
  return found;
}

const shapes = new WeakMap<Structure, { below: Uint32Array; depth: Uint16Array; lower: string[] }>();

/** Rows of the tree: the open nodes, or, while searching, every node whose name holds the text and what is above it. */
export function treeRows(structure: Structure, open: ReadonlySet<number>, text: string): Row[] {
  const { node_names: names, node_parents: parents, node_parts: parts } = structure;
  const count = names.length;
  const { below, depth, lower } = shapeOf(structure);
  const wanted = text.trim().toLowerCase();
  const shown = new Uint8Array(count);
  if (wanted) {
    for (let node = 0; node < count; node++)
      if (lower[node]!.includes(wanted)) for (let at = node; at >= 0 && !shown[at]; at = parents[at]!) shown[at] = 1;
  } else
    for (let node = 0; node < count; node++) {
      const parent = parents[node]!;
      shown[node] = parent < 0 || (shown[parent]! && open.has(parent)) ? 1 : 0;
    }
  const rows: Row[] = [];
  for (let node = 0; node < count; node++)
    if (shown[node]) {
      const part = parts[node]!;
      rows.push({
        key: node,
        name: names[node] || (part >= 0 ? structure.parts[part]!.label : "group"),
        depth: depth[node]!,
        part,
        below: below[node]!,
      });
    }
  return rows;
}

export function wornBy(structure: Structure, result: Result): Map<number, Worn> {
  const worn = new Map<number, Worn>();
  const resultPart = partAt(structure, result);
  result.placements.forEach((node, at) => {
    const part = structure.node_parts[node]!;
    const dress = result.dresses[result.dress_of[at]!]!;
    const known = worn.get(part);
    const made = result.parts[resultPart(node)]!.triangles ?? null;
    if (known) {
      known.loose ||= dress.loose;
      known.times++;
      known.triangles = known.triangles === null || made === null ? null : known.triangles + made;
      return;
    }
    const tags = structure.tags[structure.node_tags[node]!];
    worn.set(part, {
      layer: result.layers[result.layer_of[at]!] ?? null,
      kind: tags?.ifc_class ?? "",
      storey: tags?.storey ?? "",
      made: resultPart(node),
      times: 1,
      triangles: made,
      materials: dress.materials,
      why: dress.why,
      loose: dress.loose,
    });
  });
  return worn;
}
