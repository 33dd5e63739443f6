import type { JobLine } from "../../api/client";

export const ORDERS = [
  { value: "newest", label: "Newest first" },
  { value: "name", label: "By name" },
  { value: "parts", label: "Most parts first" },
  { value: "bytes", label: "Largest first" },
  { value: "waiting", label: "Not shipped first" },
] as const satisfies { value: string; label: string }[];
export type Order = (typeof ORDERS)[number]["value"];

export const isBusy = (job: JobLine) =>
  ["waiting", "reading"].includes(job.state) || job.meshing || job.shipped === "busy";

const SHIPPED: Record<string, number> = { failed: 0, none: 1, busy: 2, ok: 3 };

/** Those whose name or files hold the text, in an order; of equals the newest first, as they come. */
export function sorted(jobs: JobLine[], text: string, order: Order): JobLine[] {
  const wanted = text.trim().toLowerCase();
  const found = jobs.filter(
    (job) => !wanted || [job.name, ...job.files].some((word) => word.toLowerCase().includes(wanted)),
  );
  if (order === "name") return found.sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));
  if (order === "parts") return found.sort((a, b) => (b.parts ?? -1) - (a.parts ?? -1));
  if (order === "bytes") return found.sort((a, b) => b.bytes - a.bytes);
  if (order === "waiting") return found.sort((a, b) => SHIPPED[a.shipped]! - SHIPPED[b.shipped]!);
  return found;
}
