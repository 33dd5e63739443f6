import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";

import { api, need } from "../api/client";
import { useBench } from "../bench/bench";
import { Button } from "../ui/controls";

/** What the source says of the node that was clicked last: property sets and quantities, as they stand there. */
export function Properties() {
  const { job, structure, view } = useBench();
  const { node } = view;
  const piece = structure?.members.find(
    (one) => node !== null && node >= one.first_node && node < one.first_node + one.nodes,
  );
  const there = node !== null && !!piece?.detailed;
  const details = useQuery({
    queryKey: ["details", job.id, structure?.model_key, node],
    enabled: there,
    queryFn: async () =>
      need(
        await api.GET("/api/jobs/{job_id}/details", { params: { path: { job_id: job.id }, query: { node: node! } } }),
      ),
    staleTime: Infinity,
  });
  if (!there) return null;
  const tags = structure!.tags[structure!.node_tags[node]!];
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>Properties</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="end"
          sideOffset={8}
          className="z-50 max-h-[60vh] w-[420px] overflow-auto rounded-lg border border-line bg-paper p-4 text-[13px] shadow-xl"
        >
          <h3 className="font-name text-[15px] font-semibold">{structure!.node_names[node] || "Unnamed"}</h3>
          <p className="text-ink-soft">
            {[tags?.ifc_class, tags?.storey, ...(tags?.materials ?? [])].filter(Boolean).join(" · ")}
          </p>
          {details.isPending && <p className="pt-2 text-ink-soft">Looking them up…</p>}
          {details.isError && <p className="pt-2 text-signal">{details.error.message}</p>}
          {details.data?.sets.length === 0 && <p className="pt-2 text-ink-soft">The source gives it no properties.</p>}
          {details.data?.sets.map(({ name, values }) => (
            <section key={name} className="pt-2.5">
              <h4 className="border-b border-line pb-0.5 text-[12px] font-semibold text-ink-soft">{name}</h4>
              <dl>
                {values.map(({ name: key, value }) => (
                  <div key={key} className="flex justify-between gap-4 border-b border-cloth-deep py-[3px]">
                    <dt className="min-w-0 break-words">{key}</dt>
                    <dd className="min-w-0 text-right break-words">{said(value)}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const said = (value: unknown): string =>
  value === null || value === undefined || value === ""
    ? "–"
    : typeof value === "number"
      ? String(Number(value.toPrecision(7)))
      : typeof value === "boolean"
        ? value
          ? "yes"
          : "no"
        : String(value);
