import type { Structure } from "../../api/client";
import type { View } from "../../bench/bench";
import { placesChosen } from "../../bench/bench";

/** Whether what stands at a node is chosen. */
export const isPicked = (now: View, structure: Structure, node: number | null) =>
  node !== null && (now.places ? now.places.has(node) : now.chosen.has(structure.node_parts[node]!));

/** What is chosen once something was clicked: that alone, or with `more` that besides, or that no longer. */
export function picked(now: View, structure: Structure, node: number | null, more: boolean): Partial<View> {
  if (node === null) return more ? {} : { chosen: new Set(), node };
  if (now.single) {
    const next = new Set(more ? now.places : []);
    if (!next.delete(node)) next.add(node);
    return { ...placesChosen(structure, next), node };
  }
  const next = new Set(more ? now.chosen : []);
  const part = structure.node_parts[node]!;
  if (!next.delete(part)) next.add(part);
  return { chosen: next, node };
}

/** What is chosen once a box touched nodes: those alone, or besides what is. */
export function boxed(now: View, structure: Structure, nodes: readonly number[], more: boolean): Partial<View> {
  if (now.single) return placesChosen(structure, [...(more ? (now.places ?? []) : []), ...nodes]);
  return { chosen: new Set([...(more ? now.chosen : []), ...nodes.map((node) => structure.node_parts[node]!)]) };
}
