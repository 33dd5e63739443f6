import { api, need, needJob } from "../../api/client";
import type { Bench } from "../bench";

/** What is chosen, by what decisions call it. */
export interface Things {
  by: "part" | "placement";
  match: string[];
}

/** What decisions call what is chosen: parts are known here, placements are asked for. */
export async function thingsOf({ job, view, structure }: Bench): Promise<Things> {
  if (!view.places) return { by: "part", match: [...view.chosen].flatMap((part) => structure?.parts[part]?.ref ?? []) };
  const params = { path: { job_id: job.id } };
  const nodes = [...view.places];
  return {
    by: "placement",
    match: need(await api.POST("/api/jobs/{job_id}/sort/placements", { params, body: { nodes } })),
  };
}

/** Have what is chosen wear a material. */
export const wear = (bench: Bench, material: string) =>
  bench.change(async () => {
    const { by, match } = await thingsOf(bench);
    const params = { path: { job_id: bench.job.id } };
    return needJob(await api.POST("/api/jobs/{job_id}/sort/assign", { params, body: { by, values: match, material } }));
  });

/** Decide something about what is chosen, once it is known what decisions call it. */
export const decideOf = (
  bench: Bench,
  decide: (things: Things) => Parameters<Bench["decide"]>[0],
  label: string,
): Promise<void> =>
  thingsOf(bench).then(
    (things) => bench.decide(decide(things), label),
    (error: unknown) => bench.change(() => Promise.reject(error)),
  );

type Choice = Bench["decisions"]["receive"]["choices"][number];

/** Whether all of what is chosen is left out of the job. */
export function isLeftOut({ decisions, structure, result, view }: Bench): boolean {
  if (!structure || !result || !view.chosen.size) return false;
  const out = new Set(decisions.receive.choices.flatMap((one) => (one.by === "part" && !one.take ? [one.match] : [])));
  if (!view.places) return [...view.chosen].every((part) => out.has(structure.parts[part]!.ref));
  const here = new Set(result.placements);
  return ![...view.places].some((node) => here.has(node));
}

/** Leave what is chosen out of the job, or take it again. */
export function leaveOut(bench: Bench, out: boolean, label: string) {
  return decideOf(
    bench,
    ({ by, match }) =>
      (now) => {
        const mine = new Set(match);
        const others = now.receive.choices.filter((choice) => choice.by !== by || !mine.has(choice.match));
        const fresh: Choice[] = out ? match.map((ref) => ({ by, match: ref, take: false, source: null })) : [];
        return { ...now, receive: { ...now.receive, choices: [...others, ...fresh] } };
      },
    label,
  );
}

/** Put what is chosen into a group of the job's own; a new one where no id is given. */
export function gather(bench: Bench, name: string, id?: string) {
  return decideOf(
    bench,
    ({ by, match }) =>
      (now) => {
        const { order } = now.sort;
        const taken = new Set(order.groups.map((group) => group.id));
        let number = order.groups.length + 1;
        while (taken.has(`own:${number}`)) number++;
        const into = id ?? `own:${number}`;
        const groups = id ? order.groups : [...order.groups, { id: into, name, parent: "", pivot: null }];
        const gathered = [...order.gathered, { whom: { by, match }, into }];
        return { ...now, sort: { ...now.sort, order: { ...order, groups, gathered } } };
      },
    `Into ${name}`,
  );
}

/** Call what is chosen otherwise: a template as steps of naming have it. */
export const rename = (bench: Bench, to: string) =>
  decideOf(
    bench,
    ({ by, match }) =>
      (now) => {
        const step = { whom: { by, match }, find: "", pattern: false, to, start: 1, digits: 1, keep_good: false };
        return { ...now, sort: { ...now.sort, names: [...now.sort.names, step] } };
      },
    "Renamed",
  );

/** Keep what is chosen under a name; one of that name gives way. */
export const keepSelection = (bench: Bench, name: string) =>
  decideOf(
    bench,
    ({ by, match }) =>
      (now) => {
        const kept = now.sort.selections.filter((one) => one.name !== name);
        const fresh = { name, parts: by === "part" ? match : [], placements: by === "part" ? [] : match };
        return { ...now, sort: { ...now.sort, selections: [...kept, fresh] } };
      },
    `Kept the selection ${name}`,
  );
