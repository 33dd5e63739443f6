import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Material, need, needJob } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Board } from "../../../bench/Board";
import { Button } from "../../../ui/controls";
import { plural } from "../../../ui/format";
import { Swatch } from "../../../ui/Swatch";
import { useMaps, useWear } from "../maps/useMaps";
import { Editor } from "./Editor";

/** Every material of the job: those in use, the job's own, the house's; one of them on a ball and a tile, to be changed. */
export function MaterialsBoard({ onClose }: { onClose: () => void }) {
  const { job, result, change } = useBench();
  const [id, setId] = useState<string | null>(null);
  const [find, setFind] = useState("");
  const { offer } = useWear();
  const maps = useMaps();
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: async () => need(await api.GET("/api/shelf")) });
  const used = result?.materials ?? [];
  const palette = result?.palette ?? [];
  const inUse = new Set(used.map((item) => item.id));
  const fits = (item: Material) => item.name.toLowerCase().includes(find.trim().toLowerCase());
  const groups: [string, Material[]][] = [
    ["In use", used.filter(fits)],
    ["Made or changed here", palette.filter((item) => item.id.startsWith("own:") && !inUse.has(item.id) && fits(item))],
    ["Of the sources", palette.filter((item) => /^(look|source):/.test(item.id) && !inUse.has(item.id) && fits(item))],
    ["Of the house", palette.filter((item) => !item.id.includes(":") && !inUse.has(item.id) && fits(item))],
  ];
  const chosen = palette.find((item) => item.id === id) ?? used.find((item) => item.id !== "undecided") ?? palette[0];
  const row = maps.data?.rows.find((item) => item.material === chosen?.id);
  return (
    <Board
      title="Materials"
      description={`${plural(used.length, "material")} in use. What is changed here is changed wherever it is worn.`}
      onClose={onClose}
    >
      <div className="col-span-2 grid min-h-0 grid-cols-[250px_minmax(0,1fr)]">
        <nav aria-label="Materials" className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto] border-r border-line">
          <input
            aria-label="Find a material"
            placeholder="Find a material…"
            value={find}
            onChange={(event) => setFind(event.target.value)}
            className="m-3 rounded-md border border-field bg-white px-2 py-1"
          />
          <div className="min-h-0 overflow-y-auto px-3 pb-3">
            {groups.map(
              ([name, items]) =>
                items.length > 0 && (
                  <section key={name} aria-label={name} className="pb-2">
                    <h3 className="py-1 text-[12px] text-ink-soft">{name}</h3>
                    <ul>
                      {items.slice(0, 400).map((item) => (
                        <li key={item.id}>
                          <button
                            type="button"
                            aria-current={item.id === chosen?.id}
                            onClick={() => setId(item.id)}
                            className="flex w-full items-center gap-2 rounded px-1.5 py-1 text-left hover:bg-cloth aria-[current=true]:bg-ink aria-[current=true]:text-white"
                          >
                            <Swatch colour={item.colour} />
                            <span className="truncate">{item.name}</span>
                          </button>
                        </li>
                      ))}
                    </ul>
                  </section>
                ),
            )}
            {(shelf.data?.length ?? 0) > 0 && (
              <section aria-label="Kept from other jobs" className="pb-2">
                <h3 className="py-1 text-[12px] text-ink-soft">Kept for all jobs</h3>
                <ul>
                  {shelf.data!.map(({ number, material }) => (
                    <li key={number} className="flex items-center gap-2 px-1.5 py-0.5">
                      <Swatch colour={material.colour} />
                      <span className="min-w-0 flex-1 truncate">{material.name}</span>
                      <Button
                        quiet
                        className="!px-0 !py-0 text-[12.5px]"
                        aria-label={`Take ${material.name} into this job`}
                        onClick={() =>
                          change(async () =>
                            needJob(
                              await api.POST("/api/jobs/{job_id}/shelf/{number}", {
                                params: { path: { job_id: job.id, number } },
                              }),
                            ),
                          )
                        }
                      >
                        Take
                      </Button>
                    </li>
                  ))}
                </ul>
              </section>
            )}
          </div>
          <div className="border-t border-line px-3 py-2">
            <Button onClick={() => offer("New material", "copy-material", { material: "clay", name: "New material" })}>
              New material
            </Button>
          </div>
        </nav>
        {chosen && result ? (
          <Editor material={chosen} row={row} onShelf={() => void shelf.refetch()} />
        ) : (
          <p className="p-4 text-ink-soft">No source is read yet.</p>
        )}
      </div>
    </Board>
  );
}
