import type { Result, Structure } from "../../api/client";
import { metric, plural } from "../../ui/format";

/** For whom an exception holds: what every rung's entries have. */
export interface Whom {
  by: "parts" | "layer" | "material" | "class" | "source" | "selection" | "smaller" | "larger";
  parts: string[];
  match: string;
  source?: string | null;
  size?: number | null;
}

/** For whom an entry holds, in words. */
export function whomSaid(whom: Whom, structure: Structure | undefined, names: ReadonlyMap<string, string>): string {
  if (whom.by === "parts") {
    if (whom.parts.length !== 1) return plural(whom.parts.length, "part");
    return structure?.parts.find((part) => part.ref === whom.parts[0])?.label ?? "a part that is no more";
  }
  if (whom.by === "smaller" || whom.by === "larger") return `parts ${whom.by} than ${metric(whom.size ?? 0)}`;
  if (whom.by === "source") return `all of ${whom.source}`;
  return `${whom.by} ${names.get(whom.match) ?? whom.match}`;
}

const sameParts = (one: readonly string[], two: readonly string[]) =>
  one.length === two.length && new Set([...one, ...two]).size === one.length;

/** The entry that is for just these parts, by its place in the list; -1 where there is none. */
export const ownOf = (entries: readonly Whom[], refs: readonly string[]): number =>
  entries.findIndex((entry) => entry.by === "parts" && sameParts(entry.parts, refs));

/** The list with an entry of these parts' own changed, or a new one before all others. */
export function withOwn<E extends Whom>(entries: readonly E[], refs: string[], make: (entry: E | null) => E): E[] {
  const at = ownOf(entries, refs);
  if (at < 0) return [make(null), ...entries];
  return entries.map((entry, place) => (place === at ? make(entry) : entry));
}

/** An entry one place further up or down. */
export function moved<E>(entries: readonly E[], from: number, to: number): E[] {
  const next = [...entries];
  const [entry] = next.splice(from, 1);
  next.splice(Math.max(0, Math.min(next.length, to)), 0, entry!);
  return next;
}

/** How many parts each entry holds for, by its place in the list. */
export function reach(result: Result | undefined, rung: "facet_by" | "mend_by" | "trim_by", count: number): number[] {
  const found = Array<number>(count).fill(0);
  for (const part of result?.parts ?? []) for (const number of part[rung]) found[number] = (found[number] ?? 0) + 1;
  return found;
}
