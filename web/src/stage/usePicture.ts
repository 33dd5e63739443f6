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
    let stale = false;
    const wait = setTimeout(() => {
      scene.whenCalm(() => {
        // A picture less is no loss, so that nothing is said of one that could not be made or sent.
        if (!stale) void send(scene, id).catch(() => {});
      });
    }, CALM);
    return () => {
      stale = true;
      clearTimeout(wait);
    };
  }, [scene, ready, id, model, decisions]);
}

async function send(scene: StageScene, id: number) {
  const drawn = scene.picture(240, 150);
  await new Promise<void>((tell) => scene.whenCalm(tell));
  const bitmap = await drawn;
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  canvas.getContext("bitmaprenderer")!.transferFromImageBitmap(bitmap);
  const body = await canvas.convertToBlob({ type: "image/webp", quality: 0.85 });
  await fetch(`/api/jobs/${id}/picture`, { method: "PUT", body });
}
