import type { Result, Structure } from "../api/client";
import type { View } from "../bench/bench";
import { type Facet, sharedBy } from "./facets";

export type Like = "material" | "layer" | "class" | "storey" | "source" | "shape" | "size";
export const LIKE: { value: Like; label: string }[] = [
  { value: "material", label: "All of the same material" },
  { value: "layer", label: "All of the same layer" },
  { value: "class", label: "All of the same class" },
  { value: "storey", label: "All on the same storey" },
  { value: "source", label: "All of the same source" },
  { value: "shape", label: "All of the same shape" },
  { value: "size", label: "All of the same size" },
];
/** Sides that differ by no more than this share are of one size. */
const ALIKE = 0.005;

/** Whether two boxes are of one size, given by their sides, the longest first. */
export const sameSize = (one: readonly number[], two: readonly number[]) =>
  one.every((side, k) => Math.abs(side - two[k]!) <= ALIKE * Math.max(one[0]!, two[0]!));

/** What is chosen together with all that is like any of it; whole parts. */
export function likeChosen(now: View, structure: Structure, result: Result, like: Like): Partial<View> {
  const found = new Set(now.chosen);
  if (like === "shape") {
    const meshes = new Set([...now.chosen].map((part) => result.parts[part]?.mesh).filter(Boolean));
    structure.parts.forEach((_, part) => {
      if (meshes.has(result.parts[part]?.mesh)) found.add(part);
    });
  } else if (like === "size") {
    const boxes = new Map<string, number[]>();
    for (const part of now.chosen) {
      const sides = result.parts[part]?.sides;
      if (sides) boxes.set(sides.join(), sides);
    }
    structure.parts.forEach(({ surface }, part) => {
      const sides = surface && result.parts[part]?.sides;
      if (sides && [...boxes.values()].some((box) => sameSize(box, sides))) found.add(part);
    });
  } else {
    for (const { parts } of sharedBy(like as Facet, structure, result, now.hidden))
      if ([...now.chosen].some((part) => parts.has(part))) for (const part of parts) found.add(part);
  }
  return { chosen: found };
}
