import { useQuery } from "@tanstack/react-query";

import { api, Problem, type Views } from "../../api/client";
import { useBench } from "../../bench/bench";

/** Milliseconds until what is being worked out is asked for again. */
const AGAIN = 700;

/** What is known of one part's triangles: loose shells, and flaws with where they lie. Nothing while it is worked out. */
export const useStudy = (part: number | null) => useOf<Views["StudyView"]>(part, "study");

/** How many vertices welding would leave of a part. */
export const useCurve = (part: number | null) => useOf<Views["CurveView"]>(part, "weld-curve");

function useOf<T>(part: number | null, what: "study" | "weld-curve"): T | null {
  const { job, result } = useBench();
  const made = part === null ? undefined : result?.parts[part];
  const there = made?.triangles != null;
  const { data } = useQuery({
    queryKey: [
      what,
      job.id,
      part,
      what === "study" ? made?.mesh : `${result?.model_key} ${made?.chord} ${made?.degrees}`,
    ],
    enabled: part !== null && there,
    queryFn: async () => {
      const params = { path: { job_id: job.id, part: part! } };
      const answer =
        what === "study"
          ? await api.GET("/api/jobs/{job_id}/parts/{part}/study", { params })
          : await api.GET("/api/jobs/{job_id}/parts/{part}/weld-curve", { params });
      if (answer.response.status === 202) return null;
      if (!answer.response.ok || !answer.data) throw new Problem("The server did not answer.", "");
      return answer.data as T;
    },
    refetchInterval: (query) => (query.state.status === "success" && !query.state.data ? AGAIN : false),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return data ?? null;
}
