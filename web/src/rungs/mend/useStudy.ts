import { useQuery } from "@tanstack/react-query";

import { api, type PartResult, type Views } from "../../api/client";
import { useBench } from "../../bench/bench";
import { soon } from "../../bench/soon";

/** The study of a part: its loose shells, and its flaws with where they lie. */
export const studyOf = (job_id: number, part: number | null, made: PartResult | undefined) =>
  soon<Views["StudyView"]>(
    ["study", job_id, part, made?.mesh],
    () => api.GET("/api/jobs/{job_id}/parts/{part}/study", { params: { path: { job_id, part: part! } } }),
    part !== null && made?.triangles != null,
  );

/** What is known of one part's triangles. Nothing while it is worked out. */
export function useStudy(part: number | null): Views["StudyView"] | null {
  const { job, result } = useBench();
  return useQuery(studyOf(job.id, part, part === null ? undefined : result?.parts[part])).data ?? null;
}

/** How many vertices welding would leave of a part, and how it was before Mend. */
export function useCurve(part: number | null): Views["CurveView"] | null {
  const { job, result } = useBench();
  const made = part === null ? undefined : result?.parts[part];
  const query = soon<Views["CurveView"]>(
    ["weld-curve", job.id, part, result?.model_key, made?.chord, made?.degrees],
    () => api.GET("/api/jobs/{job_id}/parts/{part}/weld-curve", { params: { path: { job_id: job.id, part: part! } } }),
    made?.triangles != null,
  );
  return useQuery(query).data ?? null;
}
