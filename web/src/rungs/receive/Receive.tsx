import { useState } from "react";

import { api, needJob } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Button } from "../../ui/controls";
import { count, plural } from "../../ui/format";
import { AddFiles } from "./AddFiles";
import { Findings } from "./Findings";
import { OutlinesBoard } from "./outlines/OutlinesBoard";
import { SourceCard } from "./SourceCard";
import { TakeBoard } from "./TakeBoard";

/** The sources with what they declare, what of them enters, and what was noticed about them. */
export function Receive() {
  const bench = useBench();
  const { job } = bench;
  return (
    <div className="text-[13.5px]">
      <ul aria-label="Sources" className="grid grid-cols-[minmax(0,1fr)] gap-1.5">
        {job.sources.map((source) => (
          <SourceCard key={source.ref} source={source} alone={job.sources.length === 1} />
        ))}
      </ul>
      <div className="pt-2">
        <AddFiles
          label="Add a source…"
          hint="Files for one more source"
          onSent={(files) =>
            bench.change(async () =>
              needJob(
                await api.POST("/api/jobs/{job_id}/sources", {
                  params: { path: { job_id: job.id } },
                  body: { files },
                }),
              ),
            )
          }
        />
      </div>
      <Enters />
      <Drawn />
      <Findings />
    </div>
  );
}

/** How drawings and vector art become solid: only where there are any. */
function Drawn() {
  const { result } = useBench();
  const [open, setOpen] = useState(false);
  const drawn = result?.drawn;
  if (!drawn?.outlines) return null;
  const said = [
    drawn.flat ? `${count(drawn.flat)} flat` : "",
    drawn.holes ? plural(drawn.holes, "hole") : "",
    drawn.lines ? plural(drawn.lines, "line") : "",
  ].filter(Boolean);
  return (
    <section aria-label="Outlines" className="mt-2.5 border-t border-dashed border-line pt-2">
      <p>
        <b className="font-semibold">{count(drawn.solid)}</b> of {plural(drawn.outlines, "outline")} solid
        {drawn.waiting > 0 && <span className="text-signal">, {count(drawn.waiting)} await a height</span>}
      </p>
      {said.length > 0 && <p className="text-[12.5px] text-ink-soft">{said.join(", ")}</p>}
      <Button className="mt-1.5" onClick={() => setOpen(true)}>
        Outlines and heights…
      </Button>
      {open && <OutlinesBoard onClose={() => setOpen(false)} />}
    </section>
  );
}

/** How much of what was received enters, and the way to choose. */
function Enters() {
  const { result, structure, decisions, decide } = useBench();
  const [open, setOpen] = useState(false);
  if (!result || !structure) return null;
  const { choices, region, without, without_copies: noCopies, also } = decisions.receive;
  const said = [
    choices.length ? `${count(choices.length)} chosen or left out by name` : "",
    without.length ? `${count(without.length)} of the sources left out` : "",
    region ? (region.cut ? "cut at a polygon" : "what touches a polygon") : "",
    noCopies ? "no copies" : "",
    also.length ? `also ${also.map((kind) => `${kind}s`).join(", ")}` : "",
  ].filter(Boolean);
  const entered = result.placements.length;
  return (
    <section aria-label="How much enters" className="mt-2.5 border-t border-dashed border-line pt-2">
      <p>
        <b className="font-semibold">{count(entered)}</b> of {count(entered + result.left_out)} placements enter
      </p>
      {said.length > 0 && <p className="text-[12.5px] text-ink-soft">{said.join("; ")}</p>}
      <div className="flex gap-2 pt-1.5">
        <Button onClick={() => setOpen(true)}>Choose what enters…</Button>
        {said.length > 0 && (
          <Button
            quiet
            onClick={() =>
              decide(
                (now) => ({
                  ...now,
                  receive: {
                    ...now.receive,
                    choices: [],
                    without: [],
                    also: [],
                    without_copies: false,
                    region: null,
                  },
                }),
                "All enters",
              )
            }
          >
            Take all
          </Button>
        )}
      </div>
      {open && <TakeBoard onClose={() => setOpen(false)} />}
    </section>
  );
}
