import { useEffect } from "react";

import type { Job } from "../api/client";
import type { StageScene } from "./StageScene";

/** Wait this long after the last change, in milliseconds: a picture is worth no stutter. */
const CALM = 2500;

/** Sends a small picture for the list of jobs when all is meshed and nothing has changed for a while. */
export function usePicture(scene: StageScene | null, job: Job, whole: boolean) {
  const { id, model_key: model, decisions_id: decisions } = job;
  const ready = whole && job.climb.state === "done";
  useEffect(() => {
    if (!scene || !ready) return;
    const wait = setTimeout(() => {
      void scene.picture(240, 150).then((blob) => {
        // A picture less is no loss, so that nothing is said of one that could not be sent.
        if (blob) void fetch(`/api/jobs/${id}/picture`, { method: "PUT", body: blob }).catch(() => {});
      });
    }, CALM);
    return () => clearTimeout(wait);
  }, [scene, ready, id, model, decisions]);
}
