import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type Views = components["schemas"];
export type Job = Views["JobView"];
export type JobLine = Views["JobLine"];
export type Structure = Views["StructureView"];
export type Result = Views["ResultView"];
export type Part = Views["PartView"];
export type PartResult = Views["PartResult"];
export type Decisions = Views["Decisions"];
export type Delivery = Views["DeliveryView"];
export type Finding = Views["FindingView"];
export type Library = Views["LibraryView"];
export type Material = Views["MaterialView"];
export type Own = Views["OwnMaterial"];
export type Slot = Views["SlotView"]["slot"];
export type Worn = Views["MapSettings"];
export type Maps = Views["MapsView"];
export type Rule = Views["Rule"];
export type Source = Views["SourceView"];
/** A remedy; whether it is safe matters only to those that the server offers. */
export type Offer = Omit<Views["OfferView"], "safe"> & { safe?: boolean };
export type Tally = Views["TallyView"];
export type Plan = Views["PlanView"];
export type Outlines = Views["OutlinesView"];
export type Uploaded = Views["Uploaded"];

export const api = createClient<paths>({ baseUrl: "/" });

/** An answer that is a problem document becomes an error with its sentence. */
export class Problem extends Error {
  constructor(
    message: string,
    readonly remedy: string,
    readonly code = "",
  ) {
    super(message);
  }
}

/** The data of an answer, or the problem it describes thrown. */
export function need<T>(answer: { data?: T; error?: unknown; response: Response }): T {
  if (answer.response.ok && answer.data !== undefined) return answer.data;
  const told = answer.error as { detail?: string; remedy?: string; code?: string } | undefined;
  throw new Problem(told?.detail ?? "The server did not answer.", told?.remedy ?? "Try again in a moment.", told?.code);
}

/** The same for a job: the client's reading types make plain arrays of tuples, which a job's decisions hold. */
export const needJob = (answer: { data?: unknown; error?: unknown; response: Response }): Job => need(answer) as Job;

/** Send several files one after the other; progress over all of them. */
export async function uploadAll(
  files: File[],
  onProgress: (name: string, share: number) => void,
  signal: AbortSignal,
): Promise<Uploaded[]> {
  const total = files.reduce((sum, file) => sum + file.size, 0);
  const sent: Uploaded[] = [];
  let before = 0;
  for (const file of files) {
    const began = before;
    sent.push(
      await upload(file, (share) => onProgress(file.name, (began + share * file.size) / Math.max(1, total)), signal),
    );
    before += file.size;
  }
  return sent;
}

/** Send one file as the raw body; progress from 0 to 1. */
export function upload(
  file: File,
  onProgress: (share: number) => void,
  signal: AbortSignal,
): Promise<Views["Uploaded"]> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("PUT", `/api/uploads?name=${encodeURIComponent(file.name)}`);
    request.upload.onprogress = (event) => onProgress(event.loaded / Math.max(1, event.total));
    request.onload = () => {
      const told = JSON.parse(request.responseText || "{}") as Views["Uploaded"] & { detail?: string; remedy?: string };
      if (request.status < 300) resolve(told);
      else reject(new Problem(told.detail ?? "The upload failed.", told.remedy ?? "Try again."));
    };
    request.onerror = () => reject(new Problem("The upload broke off.", "Check the connection and drop it again."));
    request.onabort = () => reject(new Problem("The upload was stopped.", ""));
    signal.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}
