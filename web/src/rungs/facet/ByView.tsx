import { useState } from "react";

import { api, need, needJob, type Views } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Fold, Folded, Unfold } from "../../ui/controls";
import { count, metric, plural } from "../../ui/format";
import { type Seen, SeenFrom } from "./SeenFrom";
import { Worked } from "./Worked";
import { useWorked } from "./worked";

const ask = async (job: number, seen: Seen) =>
  need(await api.POST("/api/jobs/{job_id}/facet/views", { params: { path: { job_id: job } }, body: { seen } }));

/** As fine as lookouts show: every part by its nearest visible point. */
export function ByView() {
  const { job, decisions, result, change } = useBench();
  const [open, setOpen] = useState(false);
  const [seen, setSeen] = useState<Seen>(decisions.facet.seen);
  const { answer, error, asked, start, stop } = useWorked("facet views", ask);
  const many = result?.lookouts.length ?? 0;
  const worked = decisions.facet.exceptions.filter(({ made }) => made === "view").length;
  return (
    <Fold open={open} onOpen={setOpen}>
      <Unfold open={open} name="By what is seen">
        {worked ? "in force" : many ? plural(many, "lookout") : "no lookout"}
      </Unfold>
      <Folded className="grid grid-cols-[minmax(0,1fr)] gap-2 py-1.5">
        {many ? (
          <>
            <SeenFrom
              seen={seen}
              onChange={(next) => {
                stop();
                setSeen(next);
              }}
            />
            <Worked
              answer={answer}
              error={error}
              asked={asked !== null}
              start="Work out from the lookouts"
              use="Use these"
              onStart={() => start(seen)}
              onStop={stop}
              onUse={() => {
                stop();
                change(async () =>
                  needJob(
                    await api.POST("/api/jobs/{job_id}/facet/views/use", {
                      params: { path: { job_id: job.id } },
                      body: { seen },
                    }),
                  ),
                );
              }}
            >
              {answer && <Found answer={answer} />}
            </Worked>
          </>
        ) : (
          <p className="text-[12.5px] text-ink-soft">
            Turn the stage to what the picture will show, and keep it there under Lookouts.
          </p>
        )}
      </Folded>
    </Fold>
  );
}

function Found({ answer }: { answer: Views["ByViewView"] }) {
  const rows: [string, number, string][] = [
    ["near", answer.near ?? 0, "finer than now"],
    ["middle", answer.middle ?? 0, "as now, to twice as coarse"],
    ["far", answer.far ?? 0, "coarser"],
    ["not seen", answer.unseen ?? 0, "as background"],
  ];
  return (
    <div className="text-[12.5px]">
      <dl className="grid grid-cols-[auto_auto_minmax(0,1fr)] gap-x-3 tabular-nums">
        {rows.map(([name, number, meaning]) => (
          <div key={name} className="contents">
            <dt>{name}</dt>
            <dd className="text-right font-semibold">{count(number)}</dd>
            <dd className="text-ink-soft">{meaning}</dd>
          </div>
        ))}
      </dl>
      <p className="pt-1 text-ink-soft">
        Chord errors from {metric(answer.finest ?? 0)} to {metric(answer.coarsest ?? 0)}.
        {answer.fixed ? ` ${plural(answer.fixed, "part")} stay as they were decided by hand or pinned.` : ""}
      </p>
    </div>
  );
}
