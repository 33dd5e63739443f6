import type { FC } from "react";

import type { Job } from "../api/client";
import { Boundary } from "../ui/Boundary";
import { type Rung, RUNGS, useBench } from "./bench";
import { Facet } from "../rungs/facet/Facet";
import { Fit } from "../rungs/fit/Fit";
import { Mend } from "../rungs/mend/Mend";
import { Receive } from "../rungs/receive/Receive";
import { Ship } from "../rungs/ship/Ship";
import { Sort } from "../rungs/sort/Sort";
import { Trim } from "../rungs/trim/Trim";

type State = Job["rungs"][string];
type Knot = State["state"];

const NOT_YET: State = { state: "notyet", figure: "", rest: "" };

const PANELS: Record<Rung, FC> = { Receive, Fit, Facet, Sort, Mend, Trim, Ship };

/** Seven rungs between two ropes: each with its figure, its state, and its controls when it is open. */
export function Ladder({ away }: { away: boolean }) {
  const { job, result } = useBench();
  return (
    <nav aria-label="Rungs" inert={away} className="relative min-h-0 overflow-hidden">
      <div className="rope absolute inset-y-0 left-4 w-1.5" aria-hidden />
      <div className="rope absolute inset-y-0 right-2.5 w-1.5" aria-hidden />
      <ol className="relative h-full overflow-y-auto py-3.5">
        {RUNGS.map((rung) => (
          <RungItem key={rung} rung={rung} state={job.rungs[rung] ?? result?.rungs[rung] ?? NOT_YET} />
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
      <h2>
        {" "}
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setView({ open: open ? null : rung, ...(open ? {} : LOOK_OF[rung]) })}
          className="flex h-[41px] w-full items-center gap-2.5 rounded-[5px] pr-6 pl-1.5 text-left"
        >
          <KnotMark knot={state.state} />
          <b className="font-name w-[72px] text-[16px] font-semibold">{rung}</b>
          <span className="min-w-0 flex-1 truncate text-right text-[13.5px] text-ink-soft">
            <em className={`font-semibold not-italic ${state.state === "person" ? "text-signal" : "text-ink"}`}>
              {state.figure}
            </em>{" "}
            {state.rest}
          </span>
        </button>
      </h2>
      {open && (
        <div className="pr-6 pb-3.5 pl-[30px]">
          <Boundary name={rung}>
            <Panel />
          </Boundary>
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
    busy: "motion-safe:animate-pulse border-sea bg-sea-pale",
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
