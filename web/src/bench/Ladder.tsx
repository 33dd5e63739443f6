import type { FC } from "react";

import type { Job, Result } from "../api/client";
import { type Bench, type Rung, RUNGS, useBench } from "./bench";
import { bytes, count, metric, plural } from "../ui/format";
import { Facet } from "../rungs/facet/Facet";
import { Fit } from "../rungs/fit/Fit";
import { Mend } from "../rungs/mend/Mend";
import { Receive } from "../rungs/receive/Receive";
import { Ship } from "../rungs/ship/Ship";
import { Sort } from "../rungs/sort/Sort";
import { Trim } from "../rungs/trim/Trim";

type Knot = "done" | "person" | "stale" | "notyet" | "busy";
interface State {
  knot: Knot;
  figure: string;
  rest: string;
}

const PANELS: Record<Rung, FC> = { Receive, Fit, Facet, Sort, Mend, Trim, Ship };

/** Seven rungs between two ropes: each with its figure, its state, and its controls when it is open. */
export function Ladder() {
  const bench = useBench();
  return (
    <nav aria-label="Rungs" className="relative min-h-0 overflow-hidden">
      <div className="rope absolute inset-y-0 left-4 w-1.5" aria-hidden />
      <div className="rope absolute inset-y-0 right-2.5 w-1.5" aria-hidden />
      <ol className="relative h-full overflow-y-auto py-3.5">
        {RUNGS.map((rung) => (
          <RungItem key={rung} rung={rung} state={stateOf(rung, bench)} />
        ))}
      </ol>
    </nav>
  );
}

function RungItem({ rung, state }: { rung: Rung; state: State }) {
  const { view, setView } = useBench();
  const open = view.open === rung;
  const Panel = PANELS[rung];
  return (
    <li
      className={`mr-1 mb-2 ml-2.5 rounded-[5px] border bg-paper ${open ? "border-rope-light shadow-[0_3px_14px_#0000000f]" : "border-line shadow-[0_1px_0_#d9cfba]"}`}
    >
      <button
        type="button"
        aria-expanded={open}
        onClick={() => setView({ open: open ? null : rung, ...(open ? {} : LOOK_OF[rung]) })}
        className="flex h-[41px] w-full items-center gap-2.5 rounded-[5px] pr-6 pl-1.5 text-left"
      >
        <KnotMark knot={state.knot} />
        <b className="font-name w-[72px] text-[16px] font-semibold">{rung}</b>
        <span className="min-w-0 flex-1 truncate text-right text-[13.5px] text-ink-soft">
          <em className={`font-semibold not-italic ${state.knot === "person" ? "text-signal" : "text-ink"}`}>
            {state.figure}
          </em>{" "}
          {state.rest}
        </span>
      </button>
      {open && (
        <div className="pr-6 pb-3.5 pl-[30px]">
          <Panel />
        </div>
      )}
    </li>
  );
}

/** Opening a rung turns the stage to what it is about. */
const LOOK_OF: Partial<Record<Rung, object>> = {
  Receive: { look: "shaded" },
  Fit: { look: "shaded" },
  Facet: { look: "edges" },
  Sort: { look: "shaded" },
  Mend: { look: "facing" },
  Ship: { look: "shaded" },
};

const MEANING: Record<Knot, string> = {
  done: "done",
  person: "needs a person",
  stale: "changed since",
  notyet: "not yet",
  busy: "under way",
};

function KnotMark({ knot }: { knot: Knot }) {
  const look = {
    done: "border-sea bg-sea",
    person: "border-signal bg-signal",
    stale: "border-signal bg-paper",
    notyet: "border-ink-soft bg-paper",
    busy: "animate-pulse border-sea bg-sea-pale",
  }[knot];
  return (
    <i
      role="img"
      aria-label={MEANING[knot]}
      title={MEANING[knot]}
      className={`size-3 shrink-0 rounded-full border-2 ${look}`}
    />
  );
}

/** Units and up axes in short: they are often the same in all sources. */
function fitted({ sources }: Result): string {
  const units = [...new Set(sources.map((source) => source.unit ?? "no unit"))];
  const ups = [...new Set(sources.map((source) => source.up.toUpperCase()))];
  return `${units.join(", ")}${ups.length === 1 ? `, ${ups[0]} up` : ""}`;
}

function received(job: Job): State {
  const { sources } = job;
  const reading = sources.filter((source) => source.state === "waiting" || source.state === "reading");
  if (reading.length) {
    const so = reading.reduce((sum, source) => sum + source.count, 0);
    return { knot: "busy", figure: so ? count(so) : "", rest: so ? "parts so far" : "reading…" };
  }
  const bad = sources.filter((source) => source.state === "refused").length;
  if (bad) return { knot: "person", figure: "refused", rest: sources.length > 1 ? `${bad} of ${sources.length}` : "" };
  if (sources.some((source) => source.state === "cancelled")) return { knot: "person", figure: "stopped", rest: "" };
  const facts = sources.map((source) => source.facts as { parts: number; placements: number });
  const parts = facts.reduce((sum, item) => sum + item.parts, 0);
  const placements = facts.reduce((sum, item) => sum + item.placements, 0);
  return { knot: "done", figure: count(parts), rest: `parts, ${plural(placements, "placement")}` };
}

function stateOf(rung: Rung, { job, result, decisions }: Bench): State {
  if (rung === "Receive") return received(job);
  if (!result) return { knot: "notyet", figure: "", rest: job.state === "ready" ? "…" : "" };
  switch (rung) {
    case "Fit":
      return {
        knot: result.sources.every((source) => source.unit) ? "done" : "person",
        figure: `${metric(Math.max(...result.size))}`,
        rest: `largest, ${fitted(result)}`,
      };
    case "Facet": {
      if (job.climb.state === "working")
        return {
          knot: "busy",
          figure: count(result.triangles),
          rest: `${count(job.climb.done)} of ${count(job.climb.total)} meshed`,
        };
      if (job.climb.state === "failed") return { knot: "person", figure: "cannot be made", rest: "" };
      if (job.climb.state === "cancelled")
        return { knot: "stale", figure: count(result.triangles), rest: "stopped halfway" };
      return { knot: result.failed_parts ? "person" : "done", figure: count(result.triangles), rest: "triangles" };
    }
    case "Sort": {
      const loose = result.loose_parts.length;
      return loose
        ? { knot: "person", figure: plural(loose, "loose end"), rest: "" }
        : { knot: "done", figure: count(result.materials.length), rest: "materials, no loose end" };
    }
    case "Mend":
      return {
        knot: result.inside_out ? "person" : "done",
        figure: count(result.inside_out),
        rest: `inside out, ${plural(result.open_parts, "open part")}`,
      };
    case "Trim":
      return result.levels.light == null
        ? { knot: "notyet", figure: "", rest: "nothing trimmed" }
        : { knot: "done", figure: count(result.levels.light), rest: "triangles, light level" };
    default: {
      const last = job.deliveries[0];
      const target = decisions.ship.target.format.toUpperCase();
      if (!last || last.state === "cancelled") return { knot: "notyet", figure: "", rest: "not shipped yet" };
      if (last.state === "waiting" || last.state === "writing")
        return { knot: "busy", figure: target, rest: last.stage || "waiting" };
      if (!last.receipt?.ok) return { knot: "person", figure: "receipt failed", rest: "" };
      return {
        knot: last.stale ? "stale" : "done",
        figure: bytes(last.bundle_bytes),
        rest: last.stale ? "changed since" : "receipt in order",
      };
    }
  }
}
