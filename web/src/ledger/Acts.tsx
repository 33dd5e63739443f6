import { useMemo } from "react";

import { useBench } from "../bench/bench";
import { Button } from "../ui/controls";
import { plural } from "../ui/format";
import { Properties } from "./Properties";
import { Same } from "./Same";

/** What can be done with what is chosen: to the view, and to what is shipped. */
export function Acts() {
  const { structure, view, setView, decisions, decide } = useBench();
  const refs = [...view.chosen].flatMap((part) => structure?.parts[part]?.ref ?? []);
  const left = useMemo(
    () => new Set(decisions.receive.choices.filter((one) => one.by === "part" && !one.take).map((one) => one.match)),
    [decisions.receive.choices],
  );
  const some = view.chosen.size > 0;
  const allOut = some && refs.every((ref) => left.has(ref));
  /** Kept out of the job, and so of what is shipped, unlike what is only hidden from view. */
  const leaveOut = () =>
    decide(
      (now) => {
        const mine = new Set(refs);
        const others = now.receive.choices.filter((choice) => choice.by !== "part" || !mine.has(choice.match));
        const out = allOut ? [] : refs.map((match) => ({ by: "part" as const, match, take: false, source: null }));
        return { ...now, receive: { ...now.receive, choices: [...others, ...out] } };
      },
      `${plural(refs.length, "part")} ${allOut ? "taken again" : "left out"}`,
    );
  return (
    <>
      {some && (
        <>
          <Same />
          <Properties />
          <Button
            className="border-signal text-signal"
            title={allOut ? "They enter the job and are shipped again" : "They stay out of the job and are not shipped"}
            onClick={leaveOut}
          >
            {allOut ? "Ship after all" : "Do not ship"}
          </Button>
          <span aria-hidden className="mx-0.5 h-5 border-l border-line" />
          <Button
            title="From view only; they are shipped all the same"
            onClick={() => setView((now) => ({ hidden: new Set([...now.hidden, ...now.chosen]), chosen: new Set() }))}
          >
            Hide
          </Button>
          <Button
            title="In view only; the others are shipped all the same"
            onClick={() =>
              setView((now) => ({
                hidden: new Set([...structure!.parts.keys()].filter((part) => !now.chosen.has(part))),
              }))
            }
          >
            Show only
          </Button>
        </>
      )}
      {view.hidden.size > 0 && <Button onClick={() => setView({ hidden: new Set() })}>Show all</Button>}
    </>
  );
}
