import { useState } from "react";

import type { Way } from "../../api/job";
import { lengths } from "../../api/read";
import { type Tool, useBench } from "../../bench/bench";
import { Button, Fact } from "../../ui/controls";
import { box, imperial, metric } from "../../ui/format";
import { useTyped } from "../../ui/typed";
import { useTool } from "../../bench/useTool";
import { useLook } from "./useFit";

const TOOL: Tool = {
  id: "true",
  need: 2,
  takes: "point",
  hint: ["Pick where the known length begins.", "Pick where it ends.", "Type how long it is in truth."],
};

/** Size by a known length: two points, what they should be apart, and what went wrong. */
export function TrueUp() {
  const { fit } = useBench();
  const tool = useTool(TOOL);
  const [length, setLength] = useState<number | null>(null);
  const [first, second] = tool.picks;
  const typed = useTyped({
    value: length,
    shown: length === null ? "" : metric(length),
    read: lengths("mm"),
    refuse: (next) => (next > 0 ? null : "A length is more than nothing."),
    onSet: setLength,
  });
  const { look, problem } = useLook(
    first && second ? { does: "true", first: first.spot, second: second.spot, length: length ?? 1 } : null,
  );
  const take = (unit: string | null) => {
    if (!first || !second || length === null) return;
    const way: Way = { does: "true", first: first.spot, second: second.spot, length, unit, sure: !!look?.asked };
    fit(way, unit ? `unit ${unit}, by a known length` : `true to ${metric(length)}`);
    tool.done();
    setLength(null);
  };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2">
      <p className="text-[12.5px] text-ink-soft">Pick two points whose distance you know, and type it.</p>
      <Button on={tool.active} onClick={tool.ask}>
        {tool.active ? "Stop picking" : "Pick two points"}
      </Button>
      {tool.picks.map((pick, at) => (
        <p key={at} className="text-[12.5px]">
          <b className="font-semibold">{at + 1}</b> {pick.said}
        </p>
      ))}
      {problem && (
        <p role="alert" className="text-[12.5px] text-signal">
          {problem}
        </p>
      )}
      {tool.complete && !problem && (
        <>
          <dl>
            {look?.measured != null && (
              <Fact name="Measured now">
                {metric(look.measured)}
                <span className="block text-[12px] text-ink-soft">{imperial(look.measured)}</span>
              </Fact>
            )}
          </dl>
          <label className="grid grid-cols-[76px_1fr] items-center gap-2.5">
            In truth
            <span className="relative flex">
              <input
                aria-label="True length between the points"
                placeholder={"13' 1 15/16\", 1.85 m, 1 850"}
                {...typed.input(true)}
                className="w-0 min-w-0 grow rounded-md border border-field bg-white px-1.5 py-0.5 text-right placeholder:text-ink-soft"
              />
              {typed.note}
            </span>
          </label>
          {length !== null && look?.factor != null && (
            <div className="grid gap-1.5 rounded bg-cloth p-2">
              <dl>
                <Fact name="Factor">
                  <b className="font-semibold">{Number(look.factor.toPrecision(7))}</b>
                </Fact>
                <Fact name="All becomes">{box(look.size)}</Fact>
              </dl>
              {look.mistake && <p className="text-[12.5px]">That is {look.mistake}.</p>}
              {look.disagree && (
                <p role="alert" className="text-[12.5px] text-signal">
                  {look.disagree}
                </p>
              )}
              {look.asked && (
                <p role="alert" className="text-[12.5px] text-signal">
                  {look.asked}
                </p>
              )}
              <span className="flex flex-wrap gap-1.5">
                {look.unit && (
                  <Button main onClick={() => take(look.unit!)}>
                    Its numbers are in {look.unit}
                  </Button>
                )}
                <Button main={!look.unit} onClick={() => take(null)}>
                  {look.asked ? "Do it all the same" : look.unit ? "Scale by the factor" : "Make it true"}
                </Button>
              </span>
            </div>
          )}
        </>
      )}
    </div>
  );
}
