import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";

import { api, need, needJob, Problem, type Slot, uploadAll, type Views } from "../../../api/client";
import { useBench } from "../../../bench/bench";

export type Row = Views["MapRow"];
export type Filled = Views["SlotView"];
export type Picture = Views["PictureView"];
export type Orphan = Views["OrphanView"];

/** What the materials in use wear. */
export function useMaps() {
  const { job } = useBench();
  return useQuery({
    queryKey: ["maps", job.id, job.model_key, job.decisions_id],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/maps", { params: { path: { job_id: job.id } } })),
    placeholderData: keepPreviousData,
  });
}

/** Of no finding: what is changed by the rules of the job. */
const NOWHERE = { source: "", parts: [] };

/** Ways to change what a material wears. */
export function useWear() {
  const { job, take, change } = useBench();
  const [problem, setProblem] = useState<string | null>(null);
  const offer = useCallback(
    (label: string, does: string, values: Record<string, unknown>) => take(NOWHERE, { label, does, values }),
    [take],
  );
  const give = useCallback(
    async (files: File[], material?: string, slot?: Slot) => {
      setProblem(null);
      try {
        const sent = await uploadAll(files, () => {}, new AbortController().signal);
        for (const { name, sha256 } of sent)
          change(async () =>
            needJob(
              await api.POST("/api/jobs/{job_id}/maps/pictures", {
                params: { path: { job_id: job.id } },
                body: { name, sha256, material, slot },
              }),
            ),
          );
      } catch (error) {
        setProblem(error instanceof Problem ? `${error.message} ${error.remedy}` : "The upload failed. Try again.");
      }
    },
    [change, job.id],
  );
  return { offer, give, problem };
}

export const small = (picture: Picture) => `/api/textures/${picture.sha256}/small`;
