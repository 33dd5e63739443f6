import { useEffect, useRef } from "react";

import type { Bench } from "../bench";

/** Keep which parts are hidden through a reload: in this browser, for this revision of the source. */
export function useKeptHidden(
  jobId: number,
  revision: number | undefined,
  hidden: ReadonlySet<number>,
  look: Bench["look"],
) {
  const place = `hidden in job ${jobId}`;
  const read = useRef(false);
  useEffect(() => {
    if (revision === undefined || read.current) return;
    read.current = true;
    const kept = parse(localStorage.getItem(place));
    if (kept?.revision === revision) look({ hidden: new Set(kept.parts) });
  }, [place, revision, look]);
  useEffect(() => {
    if (revision === undefined || !read.current) return;
    if (hidden.size) localStorage.setItem(place, JSON.stringify({ revision, parts: [...hidden] }));
    else localStorage.removeItem(place);
  }, [place, revision, hidden]);
}

/** What was kept, or nothing where it is not what we wrote. */
export function parse(text: string | null): { revision: number; parts: number[] } | null {
  try {
    const found: unknown = JSON.parse(text ?? "null");
    if (typeof found !== "object" || found === null) return null;
    const { revision, parts } = found as { revision?: unknown; parts?: unknown };
    if (typeof revision !== "number" || !Array.isArray(parts)) return null;
    return { revision, parts: parts.filter((part): part is number => Number.isInteger(part)) };
  } catch {
    return null;
  }
}
