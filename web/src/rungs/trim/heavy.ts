import type { Result, Structure } from "../../api/client";
import { layoutOf } from "../../stage/layout";

/** How often each part of a result stands. */
export function timesOf(result: Result, structure: Structure): number[] {
  const times = Array<number>(result.parts.length).fill(0);
  for (const group of layoutOf(structure, result).groups) times[group.made]! += group.nodes.length;
  return times;
}

/** Triangles of some parts over all their placements. */
export function weigh(result: Result, structure: Structure, parts: readonly number[]): number {
  const times = timesOf(result, structure);
  return parts.reduce((sum, part) => sum + (result.parts[part]?.triangles ?? 0) * times[part]!, 0);
}

/** Share of all triangles that the heaviest parts have together, and how many parts at the most. */
const MOST = 0.8;
const FEW = 12;

/** The few parts that have most of the triangles. */
export function heaviest(result: Result, structure: Structure): number[] {
  const times = timesOf(result, structure);
  const rows = result.parts
    .map((part, at) => ({ at, triangles: (part.triangles ?? 0) * times[at]! }))
    .filter(({ triangles }) => triangles > 0)
    .sort((one, two) => two.triangles - one.triangles);
  const found: number[] = [];
  let sum = 0;
  for (const { at, triangles } of rows) {
    if (found.length >= FEW || sum >= MOST * result.triangles) break;
    found.push(at);
    sum += triangles;
  }
  return found;
}
