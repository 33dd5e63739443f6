import { useState } from "react";

import { api, needJob, type Source } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Button, Fact, Fold, Folded, Progress, Unfold } from "../../ui/controls";
import { box, boxImperial, bytes, count, metric, plural } from "../../ui/format";
import { AddFiles } from "./AddFiles";
import { CandidatesBoard } from "./CandidatesBoard";

interface Facts {
  format: string;
  schema: string;
  writer: string;
  bytes: number;
  unit: string | null;
  up: string | null;
  parts: number;
  placements: number;
  layers: number;
  hidden: string[];
  storeys: number;
  colours: number;
  size: number[];
  middle: number[];
  clean?: boolean;
  place: { easting: number; northing: number; height: number; turn: number; grid: string } | null;
}

const STAGES: Record<string, string> = {
  reading: "Reading the file",
  structure: "Reading the structure",
  translating: "Translating shapes",
  parts: "Collecting parts",
};

/** One source: how far it is, what it declares, and what can be done with it. */
export function SourceCard({ source, alone }: { source: Source; alone: boolean }) {
  const bench = useBench();
  const { job, decisions, decide } = bench;
  const [open, setOpen] = useState(alone);
  const [comparing, setComparing] = useState(false);
  const facts = source.facts as unknown as Facts | null;
  const busy = source.state === "waiting" || source.state === "reading";
  const out = decisions.receive.without.includes(source.ref);
  const leave = () =>
    decide(
      (now) => ({
        ...now,
        receive: {
          ...now.receive,
          without: out
            ? now.receive.without.filter((ref) => ref !== source.ref)
            : [...now.receive.without, source.ref].sort(),
        },
      }),
      out ? `${source.name} taken again` : `${source.name} left out`,
    );
  return (
    <li data-takes-revision={source.ref} className="rounded border border-cloth-deep bg-white px-2 py-1.5">
      <Fold open={open} onOpen={setOpen}>
        <Unfold open={open} name={source.name} className={out ? "text-ink-soft line-through" : ""}>
          {out ? "left out" : busy ? "reading…" : source.state === "refused" ? "refused" : saysInShort(facts)}
        </Unfold>
        {busy && (
          <div className="grid gap-1.5 pt-1.5">
            <Progress share={source.state === "waiting" ? null : source.share} label={`Reading ${source.name}`} />
            <div className="flex items-center justify-between gap-2">
              <p className="text-[12.5px] text-ink-soft" aria-live="polite">
                {STAGES[source.stage] ?? "Waiting for a worker"}
                {source.count > 0 && `: ${count(source.count)}`}
              </p>
              <Button
                onClick={() =>
                  bench.change(async () =>
                    needJob(
                      await api.POST("/api/jobs/{job_id}/sources/{ref}/cancel", {
                        params: { path: { job_id: job.id, ref: source.ref } },
                      }),
                    ),
                  )
                }
              >
                Stop
              </Button>
            </div>
          </div>
        )}
        {source.state === "cancelled" && <Button onClick={() => bench.act("resume")}>Read it after all</Button>}
        {source.state === "refused" && <Button onClick={() => bench.act("resume")}>Read it again</Button>}
        {facts && source.state === "ready" && (
          <Folded asChild>
            <dl className="pt-1">
              <Fact name="Declares">{`${facts.format} ${facts.schema}`}</Fact>
              <Fact name="Written by">{facts.writer || "not said"}</Fact>
              <Fact name="Unit, up">
                {facts.unit ?? <span className="text-signal">none</span>}
                {`, ${(facts.up ?? "z").toUpperCase()}`}
              </Fact>
              <Fact name="Size">
                {box(facts.size)}
                <span className="block text-[12px] text-ink-soft">{boxImperial(facts.size)}</span>
              </Fact>
              {Math.hypot(...facts.middle) > 1000 && (
                <Fact name="Middle">
                  {facts.middle.map((value) => (value / 1000).toFixed(3)).join(", ")} km
                  <span className="block text-[12px] text-ink-soft">from the origin</span>
                </Fact>
              )}
              {facts.place && (
                <Fact name="On the map">
                  E {metric(facts.place.easting)}, N {metric(facts.place.northing)}
                  <span className="block text-[12px] text-ink-soft">
                    height {metric(facts.place.height)}, turned {facts.place.turn.toFixed(2)}°
                    {facts.place.grid && `, ${facts.place.grid}`}
                  </span>
                </Fact>
              )}
              <Fact name="Parts, placements">{`${count(facts.parts)}, ${count(facts.placements)}`}</Fact>
              {facts.storeys > 0 && <Fact name="Storeys">{count(facts.storeys)}</Fact>}
              <Fact name="Layers, colours">{`${count(facts.layers)}, ${count(facts.colours)}`}</Fact>
              <Fact name="Bytes">{bytes(facts.bytes)}</Fact>
            </dl>
          </Folded>
        )}
        {!busy && (
          <Folded className="flex flex-wrap items-center gap-x-3">
            <AddFiles
              quiet
              label="Replace…"
              hint={`Files in place of ${source.name}`}
              onSent={(files) =>
                bench.change(async () =>
                  needJob(
                    await api.PUT("/api/jobs/{job_id}/sources/{ref}", {
                      params: { path: { job_id: job.id, ref: source.ref } },
                      body: { files },
                    }),
                  ),
                )
              }
            />
            {facts?.clean && (
              <a
                href={`/api/jobs/${job.id}/sources/${encodeURIComponent(source.ref)}/clean`}
                download
                className="text-[13px] font-semibold underline decoration-line underline-offset-4 hover:decoration-ink"
              >
                Save cleaned SVG
              </a>
            )}
            <Button quiet className="-ml-2" onClick={() => setComparing(true)}>
              Candidates…
            </Button>
            {!alone && (
              <Button quiet className="-ml-2" onClick={leave}>
                {out ? "Take it again" : "Leave it out"}
              </Button>
            )}
          </Folded>
        )}
      </Fold>
      {comparing && <CandidatesBoard source={source} onClose={() => setComparing(false)} />}
    </li>
  );
}

const saysInShort = (facts: Facts | null) =>
  facts ? `${facts.format}, ${facts.unit ?? "no unit"}, ${plural(facts.parts, "part")}` : "";
