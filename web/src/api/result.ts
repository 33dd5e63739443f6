import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, type Job, need, Problem, type Result, type Views } from "./client";

/** Milliseconds between news of meshes that come in. */
const PAUSE = 400;
const PAUSE_AFTER_FAILURE = 2000;

/**
 * The decisions worked out: whole when they change, and as meshes come in only what they change. The lists of
 * placements stay the same objects, so that what is reckoned from them holds.
 */
export function useResult(job: Job | undefined) {
  const queries = useQueryClient();
  const { id, model_key: model, decisions_id: decisions } = job ?? {};
  const key = ["result", id, model, decisions];
  const result = useQuery({
    queryKey: key,
    enabled: job?.state === "ready",
    placeholderData: keepPreviousData,
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/result", { params: { path: { job_id: id! } } })),
    staleTime: Infinity,
    gcTime: 30_000,
    structuralSharing: false,
  });
  const asking = useRef(false);
  // What is to be asked when the question that is under way is answered: always for the newest key.
  const next = useRef<(() => void) | null>(null);
  const alive = useRef(true);
  const whole = result.isPlaceholderData ? undefined : result.data;
  const there = !!whole;
  const { done, state, failed } = job?.climb ?? {};
  useEffect(() => {
    if (!there) return;
    const ask = async () => {
      asking.current = true;
      next.current = null;
      let pause = PAUSE;
      const known = queries.getQueryData<Result>(key);
      try {
        if (known) {
          const told = need(
            await api.POST("/api/jobs/{job_id}/result/news", {
              params: { path: { job_id: id! } },
              body: { decisions_id: known.decisions_id, model_key: known.model_key, parts: bitsOf(known) },
            }),
          );
          queries.setQueryData<Result>(key, (now) => now && merged(now, told));
        }
      } catch (error) {
        // Another result altogether: the whole of it is asked for.
        if (error instanceof Problem && error.code === "conflict") void queries.invalidateQueries({ queryKey: key });
        // What did not come is asked for again, for nobody may tell of these meshes any more.
        else {
          pause = PAUSE_AFTER_FAILURE;
          if (alive.current) next.current ??= () => void ask();
        }
      } finally {
        setTimeout(() => {
          asking.current = false;
          next.current?.();
        }, pause);
      }
    };
    if (asking.current) next.current = () => void ask();
    else void ask();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key is made of these
  }, [there, done, state, failed, id, model, decisions, queries]);
  useEffect(() => {
    alive.current = true;
    return () => {
      alive.current = false;
      next.current = null;
    };
  }, []);
  return result;
}

type News = Views["ResultNews"];

/** A bit for every part that is meshed, as base64. */
function bitsOf(result: Result): string {
  const bytes = new Uint8Array(Math.ceil(result.parts.length / 8));
  result.parts.forEach((part, index) => {
    if (part.triangles != null) bytes[index >> 3]! |= 1 << (index & 7);
  });
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  return btoa(text);
}

function merged(result: Result, { changed, ...figures }: News): Result {
  if (figures.decisions_id !== result.decisions_id || figures.model_key !== result.model_key) return result;
  // What failed is told each time, so that what is tried again is known to be.
  const parts = result.parts.map((part) => (part.failure == null ? part : { ...part, failure: null }));
  for (const [index, part] of Object.entries(changed)) parts[Number(index)] = part;
  return { ...result, ...figures, parts };
}
