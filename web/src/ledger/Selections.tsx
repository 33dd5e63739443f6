import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";

import { api, need } from "../api/client";
import { placesChosen, useBench } from "../bench/bench";
import { keepSelection } from "../bench/menu/things";
import { Button } from "../ui/controls";
import { plural } from "../ui/format";

/** Selections that are kept by a name: chosen again by a click, made from what is chosen. */
export function Selections() {
  const bench = useBench();
  const { job, structure, result, view, setView, decisions, decide } = bench;
  const kept = decisions.sort.selections;
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const asked = useQuery({
    queryKey: ["selections", job.id, kept, result?.model_key],
    enabled: open && kept.length > 0,
    queryFn: async () =>
      need(await api.GET("/api/jobs/{job_id}/sort/selections", { params: { path: { job_id: job.id } } })),
    placeholderData: (before) => before,
  });
  const rows = kept.length ? (asked.data ?? []) : [];
  if (!kept.length && !view.chosen.size) return null;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button>{kept.length ? `Selections: ${kept.length}` : "Keep…"}</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="end"
          sideOffset={6}
          aria-label="Selections"
          className="z-50 grid w-[330px] gap-2 rounded-md border border-line bg-paper p-3 text-[13px] shadow-lg"
        >
          <ul className="max-h-64 overflow-auto">
            {rows.map(({ name, parts, nodes, missing }) => (
              <li key={name} className="flex items-center gap-2 border-b border-cloth-deep py-1">
                <button
                  type="button"
                  className="min-w-0 flex-1 truncate text-left font-semibold"
                  title={name}
                  onClick={() => {
                    setView((now) => ({
                      ...(nodes.length ? placesChosen(structure!, nodes) : { chosen: new Set(parts) }),
                      framed: now.framed + 1,
                    }));
                    setOpen(false);
                  }}
                >
                  {name}
                </button>
                <span className="whitespace-nowrap text-ink-soft">
                  {nodes.length ? plural(nodes.length, "placement") : plural(parts.length, "part")}
                  {missing > 0 && `, ${missing} not there`}
                </span>
                <Button
                  quiet
                  className="!px-1"
                  aria-label={`Forget ${name}`}
                  onClick={() =>
                    decide(
                      (now) => ({
                        ...now,
                        sort: { ...now.sort, selections: now.sort.selections.filter((one) => one.name !== name) },
                      }),
                      `Forgot the selection ${name}`,
                    )
                  }
                >
                  ×
                </Button>
              </li>
            ))}
            {!kept.length && <li className="text-ink-soft">None is kept yet.</li>}
          </ul>
          {view.chosen.size > 0 && (
            <form
              className="flex gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (!name.trim()) return;
                void keepSelection(bench, name.trim());
                setName("");
              }}
            >
              <input
                aria-label="Keep what is chosen as"
                placeholder="Keep what is chosen as…"
                maxLength={200}
                value={name}
                onChange={(event) => setName(event.target.value)}
                className="min-w-0 flex-1 rounded-md border border-field bg-white px-2 py-1"
              />
              <button
                type="submit"
                disabled={!name.trim()}
                className="rounded-md border border-ink bg-ink px-2.5 py-1 font-semibold text-white disabled:opacity-45"
              >
                Keep
              </button>
            </form>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
