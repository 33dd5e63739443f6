import { useEffect, useRef } from "react";

import type { Bench } from "./bench";

/** Keep which parts are hidden through a reload: in this browser, for the sources as they are now. */
export function useKeptHidden(
  jobId: number,
  model: string | undefined,
  hidden: ReadonlySet<number>,
  setView: Bench["setView"],
) {
  const place = `hidden in job ${jobId}`;
  const read = useRef(false);
  useEffect(() => {
    if (model === undefined || read.current) return;
    read.current = true;
    const kept = parse(localStorage.getItem(place));
    if (kept?.model === model) setView({ hidden: new Set(kept.parts) });
  }, [place, model, setView]);
  useEffect(() => {
    if (model === undefined || !read.current) return;
    if (hidden.size) localStorage.setItem(place, JSON.stringify({ model, parts: [...hidden] }));
    else localStorage.removeItem(place);
  }, [place, model, hidden]);
}

/** What was kept, or nothing where it is not what we wrote. */
export function parse(text: string | null): { model: string; parts: number[] } | null {
  try {
    const found: unknown = JSON.parse(text ?? "null");
    if (typeof found !== "object" || found === null) return null;
    const { model, parts } = found as { model?: unknown; parts?: unknown };
    if (typeof model !== "string" || !Array.isArray(parts)) return null;
    return { model, parts: parts.filter((part): part is number => Number.isInteger(part)) };
  } catch {
    return null;
  }
}
