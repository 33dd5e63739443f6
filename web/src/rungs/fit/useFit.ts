import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, need, Problem, type Views } from "../../api/client";
import type { Way } from "../../api/job";
import { useBench } from "../../bench/bench";

/** What Fit knows beside the result: likely units, measurements, the offset. Asked for where it is shown alone, and again
 * for every mesh only where something is measured on one. */
export function useFit(shown = true): Views["FittingView"] | undefined {
  const { job, result, decisions } = useBench();
  const { state, done } = job.climb;
  const { data } = useQuery({
    queryKey: ["fit", job.id, job.model_key, job.decisions_id, state, decisions.fit.notes?.length ? done : null],
    enabled: shown && !!result && job.state === "ready",
    placeholderData: keepPreviousData,
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/fit", { params: { path: { job_id: job.id } } })),
    staleTime: Infinity,
    gcTime: 30_000,
  });
  return data;
}

/** What a way would come to, before it is taken; or why it cannot be. */
export function useLook(way: Way | null): { look: Views["WayLook"] | null; problem: string | null } {
  const { job } = useBench();
  const { data, error } = useQuery({
    queryKey: ["look", job.id, job.model_key, job.decisions_id, way],
    enabled: !!way,
    queryFn: async () =>
      need(
        await api.POST("/api/jobs/{job_id}/fit/look", {
          params: { path: { job_id: job.id } },
          body: { way: way as Views["WayIn"]["way"], label: "" },
        }),
      ),
    retry: false,
    staleTime: Infinity,
    gcTime: 10_000,
  });
  const problem = error instanceof Problem ? `${error.message} ${error.remedy}` : "The server did not answer.";
  return { look: (way && data) || null, problem: error ? problem : null };
}
