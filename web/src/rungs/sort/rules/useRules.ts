import { useQuery } from "@tanstack/react-query";

import { api, need, type Views } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import type { By } from "./values";

export type Told = Views["RuleTold"];
export type Value = Views["ValueView"];

/** What the board of rules tells, with the values of one kind; while a change is worked out, what was told before. */
export function useRules(by: By) {
  const { job, result } = useBench();
  return useQuery({
    queryKey: ["rules", job.id, job.decisions_id, result?.model_key, result?.triangles, by],
    queryFn: async () =>
      need(await api.GET("/api/jobs/{job_id}/sort/rules", { params: { path: { job_id: job.id }, query: { by } } })),
    placeholderData: (before) => before,
    enabled: !!result,
  });
}
