import { useEffect, useRef } from "react";

import type { Structure } from "../api/client";
import type { Bench } from "./bench";

/** Keep which parts are hidden through a reload, in this browser, by what decisions call them. */
export function useKeptHidden(
  jobId: number,
  structure: Structure | undefined,
  hidden: ReadonlySet<number>,
  places: ReadonlySet<number>,
  setView: Bench["setView"],
) {
  const place = `hidden in job ${jobId}`;
  const read = useRef(false);
  useEffect(() => {
    if (!structure || read.current) return;
    read.current = true;
    const kept = new Set(parse(localStorage.getItem(place)));
    const parts = structure.parts.flatMap((part, index) => (kept.has(part.ref) ? [index] : []));
    const nodes = parse(localStorage.getItem(`${place}, placements of ${structure.model_key}`)).map(Number);
    const there = nodes.filter((node) => node < structure.node_parts.length);
    if (parts.length || there.length) setView({ hidden: new Set(parts), hiddenPlaces: new Set(there) });
  }, [place, structure, setView]);
  useEffect(() => {
    if (!structure || !read.current) return;
    const refs = [...hidden].flatMap((part) => structure.parts[part]?.ref ?? []);
    if (refs.length) localStorage.setItem(place, JSON.stringify(refs));
    else localStorage.removeItem(place);
    // Placements have no name here that another revision would know.
    const at = `${place}, placements of ${structure.model_key}`;
    if (places.size) localStorage.setItem(at, JSON.stringify([...places].map(String)));
    else localStorage.removeItem(at);
  }, [place, structure, hidden, places]);
}

/** What was kept, or nothing where it is not what we wrote. */
export function parse(text: string | null): string[] {
  try {
    const found: unknown = JSON.parse(text ?? "null");
    return Array.isArray(found) ? found.filter((ref): ref is string => typeof ref === "string") : [];
  } catch {
    return [];
  }
}

/** The same parts by the numbers that another structure gives them; those that it does not have fall out. */
export function renumbered(parts: ReadonlySet<number>, before: Structure, now: Structure): Set<number> {
  const numbers = new Map(now.parts.map((part, index) => [part.ref, index]));
  return new Set([...parts].flatMap((part) => numbers.get(before.parts[part]?.ref ?? "") ?? []));
}
