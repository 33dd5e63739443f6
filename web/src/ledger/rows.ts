import type { Result, Structure } from "../api/client";
import { partAt } from "../stage/cuts";
import { finder } from "./pattern";
import type { TreeShape } from "./trees";

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
  /** The result's part at each of its placements, where they are several. */
  others: number[] | null;
  /** Placements that enter. */
  times: number;
  materials: string[];
  why: string;
  loose: boolean;
}

/** What a part of the table is found by, in small letters; empty for what has no place in it. */
function wordsOf(structure: Structure, worn: Map<number, Worn>, names: Map<string, string>): string[] {
  const known = words.get(worn);
  if (known?.names === names && known.structure === structure) return known.found;
  const matter = new Set<number>();
  structure.node_parts.forEach((part, node) => {
    if (structure.tags[structure.node_tags[node]!]?.kind === "body") matter.add(part);
  });
  const found = structure.parts.map((part, index) => {
    if (!part.surface || !(matter.has(index) || worn.has(index))) return "";
    const dress = worn.get(index);
    const worns = dress?.materials.map((id) => names.get(id) ?? id) ?? [];
    return [part.label, dress?.layer ?? "", dress?.kind ?? "", dress?.storey ?? "", ...worns].join("\n").toLowerCase();
  });
  words.set(worn, { structure, names, found });
  return found;
}

const words = new WeakMap<Map<number, Worn>, { structure: Structure; names: Map<string, string>; found: string[] }>();

/** Rows of the table: every part with a surface whose name, layer, class or material holds the text; air and holes only when they enter. */
export function tableRows(
  structure: Structure,
  worn: Map<number, Worn>,
  names: Map<string, string>,
  text: string,
  renamed: Map<number, string>,
): Row[] {
  const has = finder(text);
  const found = wordsOf(structure, worn, names);
  return structure.parts.flatMap((part, index) =>
    found[index] && (has(found[index]) || has(renamed.get(index)?.toLowerCase() ?? ""))
      ? [{ key: index, name: renamed.get(index) ?? part.label, depth: 0, part: index, below: 0 }]
      : [],
  );
}

/** What of a tree does not change while one looks at it: nodes below each, depth, names without capitals. */
function shapeOf(structure: TreeShape) {
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

const shapes = new WeakMap<TreeShape, { below: Uint32Array; depth: Uint16Array; lower: string[] }>();

/** Rows of the tree: the open nodes, or, while searching, every node whose name holds the text and what is above it; of
 *  those only what is `left` of the parts, where they are narrowed. */
export function treeRows(
  structure: TreeShape,
  open: ReadonlySet<number>,
  text: string,
  left: ReadonlySet<number> | null,
): Row[] {
  const { node_names: names, node_parents: parents, node_parts: parts } = structure;
  const count = names.length;
  const { below, depth, lower } = shapeOf(structure);
  const has = finder(text);
  const shown = new Uint8Array(count);
  if (text.trim() || left) {
    for (let node = 0; node < count; node++)
      if (has(lower[node]!) && (!left || left.has(parts[node]!)))
        for (let at = node; at >= 0 && !shown[at]; at = parents[at]!) shown[at] = 1;
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

/** Triangles of all placements of a part together; null until all of them are meshed. */
export function trianglesOf(worn: Worn, result: Result): number | null {
  const one = (made: number) => result.parts[made]!.triangles ?? null;
  if (!worn.others) return one(worn.made) === null ? null : one(worn.made)! * worn.times;
  let sum = 0;
  for (const made of worn.others) {
    const own = one(made);
    if (own === null) return null;
    sum += own;
  }
  return sum;
}

const kept = new WeakMap<readonly number[], Map<number, Worn>>();

/** What each part wears; results that differ only in the meshes that are there share it. */
export function wornBy(structure: Structure, result: Result): Map<number, Worn> {
  const known = kept.get(result.placements);
  if (known) return known;
  const worn = new Map<number, Worn>();
  const resultPart = partAt(structure, result);
  result.placements.forEach((node, at) => {
    const part = structure.node_parts[node]!;
    const dress = result.dresses[result.dress_of[at]!]!;
    const known = worn.get(part);
    const made = resultPart(node);
    if (known) {
      known.loose ||= dress.loose;
      known.times++;
      if (known.others || made !== known.made) {
        known.others ??= Array<number>(known.times - 1).fill(known.made);
        known.others.push(made);
      }
      return;
    }
    const tags = structure.tags[structure.node_tags[node]!];
    worn.set(part, {
      layer: result.layers[result.layer_of[at]!] ?? null,
      kind: tags?.ifc_class ?? "",
      storey: tags?.storey ?? "",
      made,
      others: null,
      times: 1,
      materials: dress.materials,
      why: dress.why,
      loose: dress.loose,
    });
  });
  kept.set(result.placements, worn);
  return worn;
}
