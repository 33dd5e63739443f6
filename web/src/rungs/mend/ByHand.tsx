import { useEffect } from "react";

import { api, needJob, type Part } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Button } from "../../ui/controls";
import { count, plural } from "../../ui/format";

const DEEDS = [
  { does: "turn-shell", label: "Turn a shell", hint: "Point at a shell to turn it inside out." },
  { does: "turn-face", label: "Turn a face", hint: "Point at a face to turn it over." },
  { does: "take-out", label: "Take a shell out", hint: "Point at a shell to make it a part of its own." },
] as const;

/** What is turned, and shells taken out, by pointing at the stage; and whole parts turned over. */
export function ByHand({ chosen }: { chosen: Part[] }) {
  const { job, decisions, decide, change, view, setView } = useBench();
  const { flipped, turned } = decisions.mend;
  // The tool goes when the rung is closed.
  useEffect(
    () => () => setView((now) => (now.tool?.id.startsWith("mend ") ? { tool: null, picks: [] } : {})),
    [setView],
  );
  const point = (deed: (typeof DEEDS)[number]) => {
    const id = `mend ${deed.does}`;
    if (view.tool?.id === id) return setView({ tool: null, picks: [] });
    const onHit = (node: number, at: [number, number, number]) =>
      change(async () =>
        needJob(
          await api.POST("/api/jobs/{job_id}/mend/hand", {
            params: { path: { job_id: job.id } },
            body: { node, at, does: deed.does },
          }),
        ),
      );
    setView({ tool: { id, need: 1, takes: "face", hint: [deed.hint], onHit }, picks: [], look: "facing" });
  };
  const flip = () =>
    decide(
      (now) => {
        const next = new Set(now.mend.flipped);
        for (const { ref } of chosen) if (!next.delete(ref)) next.add(ref);
        return { ...now, mend: { ...now.mend, flipped: [...next] } };
      },
      `Flipped ${chosen.length === 1 ? chosen[0]!.label : plural(chosen.length, "part")}`,
    );
  const many = flipped.length + turned.length;
  return (
    <section
      aria-label="By hand"
      className="grid grid-cols-[minmax(0,1fr)] gap-1.5 border-t border-dashed border-line pt-2"
    >
      <div className="flex items-baseline justify-between gap-2">
        <p className="font-semibold">By hand</p>
        {many > 0 && (
          <span
            className="text-[12.5px] text-ink-soft"
            title={turned.map(({ what, part }) => `${what} of ${part}`).join(", ")}
          >
            {flipped.length > 0 && plural(flipped.length, "part")}
            {flipped.length > 0 && turned.length > 0 && ", "}
            {turned.length > 0 && `${count(turned.length)} shells and faces`} turned{" "}
            <Button
              quiet
              className="!px-1"
              onClick={() =>
                decide((now) => ({ ...now, mend: { ...now.mend, flipped: [], turned: [] } }), "Nothing turned by hand")
              }
            >
              Turn back
            </Button>
          </span>
        )}
      </div>
      <div className="flex flex-wrap gap-1.5">
        {DEEDS.map((deed) => (
          <Button key={deed.does} on={view.tool?.id === `mend ${deed.does}`} onClick={() => point(deed)}>
            {deed.label}
          </Button>
        ))}
        <Button disabled={!chosen.length} onClick={flip}>
          {chosen.length > 1 ? `Flip ${chosen.length} parts` : "Flip the chosen part"}
        </Button>
      </div>
      <p className="text-[12.5px] text-ink-soft">
        Violet stripes mark surfaces seen from behind.{" "}
        {chosen.length ? "" : "Choose a part on the stage or in the ledger for settings of its own."}
      </p>
    </section>
  );
}
