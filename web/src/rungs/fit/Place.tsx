import { useEffect, useState } from "react";

import type { Views } from "../../api/client";
import type { Way } from "../../api/job";
import { type Tool, useBench } from "../../bench/bench";
import { Button, Fact, Select } from "../../ui/controls";
import { MoveField } from "../../ui/fields";
import { metric } from "../../ui/format";
import { useTool } from "../../bench/useTool";

const ORIGIN: Tool = { id: "origin", need: 1, takes: "point", hint: ["Pick the point that is to be the origin."] };
const SIDES = [-1, 0, 1] as const;
type Side = (typeof SIDES)[number];
const WORDS = { x: ["left", "", "right"], y: ["front", "", "back"], z: ["bottom", "", "top"] };
/** Every corner of a box, middle of its edges and of its faces, by where it lies. */
const BOX = SIDES.flatMap((x) =>
  SIDES.flatMap((y) =>
    SIDES.filter((z) => x || y || z).map((z) => ({
      side: [x, y, z] as [Side, Side, Side],
      label: [WORDS.z[z + 1], WORDS.y[y + 1], WORDS.x[x + 1]].filter(Boolean).join(" "),
      kind: ["face", "edge", "corner"][Math.abs(x) + Math.abs(y) + Math.abs(z) - 1]!,
    })),
  ),
).sort((a, b) => ["corner", "face", "edge"].indexOf(a.kind) - ["corner", "face", "edge"].indexOf(b.kind));

/** Origin, ground and height; and what map coordinates would have cost. */
export function Place({ of, fit: known }: { of: string; fit: Views["FittingView"] | undefined }) {
  const { decisions, fit, result, view, setView } = useBench();
  const tool = useTool(ORIGIN);
  const [to, setTo] = useState<[number, number, number]>([0, 0, 0]);
  const { origin, ground, lift, datum } = decisions.fit;
  const sources = of ? [of] : [];
  const take = (way: Way, label: string) => fit({ ...way, sources } as Way, label);
  const picked = tool.picks[0];
  useEffect(() => {
    if (!picked) return;
    fit(
      { does: "origin", named: "picked", spot: picked.spot, sources: of ? [of] : [], to: of ? to : [0, 0, 0] },
      `origin: ${picked.said}`,
    );
    tool.done();
  }, [picked, tool, fit, of, to]);
  const now = origin
    ? origin.named === "box"
      ? `box ${origin.side?.join(" ")}`
      : origin.named!
    : datum?.some(Boolean)
      ? "typed"
      : "as received";
  const [typing, setTyping] = useState(false);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2">
      <label className="grid grid-cols-[76px_1fr] items-center gap-2.5">
        Origin
        <Select
          label={of ? "Which point of the source comes to the place below" : "Origin of everything"}
          value={of ? "" : typing ? "typed" : now}
          empty="a point of it to…"
          options={[
            { value: "as received", label: "as received" },
            { value: "base centre", label: "centre of the base" },
            { value: "centre", label: "centre" },
            { value: "pick", label: "a picked point…" },
            { value: "picked", label: "the picked point" },
            ...(of ? [] : [{ value: "typed", label: "typed coordinates" }]),
            ...BOX.map(({ side, label, kind }) => ({ value: `box ${side.join(" ")}`, label: `${kind}: ${label}` })),
          ].filter(({ value }) => value !== "picked" || (now === "picked" && !of))}
          onChange={(next) => {
            setTyping(next === "typed");
            if (next === "typed" || next === "picked") return;
            if (next === "pick") return tool.ask();
            const side = BOX.find((item) => `box ${item.side.join(" ")}` === next)?.side;
            const way: Way = side
              ? { does: "origin", named: "box", side }
              : { does: "origin", named: next as "centre" };
            take(of ? { ...way, to } : way, `origin: ${side ? "a point of the box" : next}`);
          }}
        />
      </label>
      {(of || typing || (!origin && datum?.some(Boolean))) && (
        <div className="grid grid-cols-[76px_1fr] gap-2.5">
          <span className="pt-0.5">{of ? "comes to" : "at"}</span>
          <div className="grid gap-1">
            {(["X", "Y", "Z"] as const).map((axis, at) => (
              <MoveField
                key={axis}
                label={of ? `Where the point comes to along ${axis}` : `Origin along ${axis}`}
                axis={axis}
                value={(of ? to : (datum ?? [0, 0, 0]))[at]!}
                onSet={(value) => {
                  const next = [...(of ? to : (datum ?? [0, 0, 0]))] as [number, number, number];
                  next[at] = value;
                  if (of) setTo(next);
                  else take({ does: "origin", named: "typed", to: next }, "origin typed");
                }}
              />
            ))}
          </div>
        </div>
      )}
      <div className="grid grid-cols-[1fr_auto] items-center gap-2">
        <Button onClick={() => take({ does: "ground", lift: of ? 0 : (lift ?? 0) }, "stands on the ground")}>
          Down to the ground
        </Button>
        <span className="w-32">
          <MoveField
            label="Height of the lowest point above the ground"
            axis="up"
            value={of ? 0 : ground ? (lift ?? 0) : (known?.ground ?? 0)}
            onSet={(value) => take({ does: "ground", lift: value }, `${metric(value)} above the ground`)}
          />
        </span>
      </div>
      <Button on={view.handled === of} onClick={() => setView({ handled: view.handled === of ? null : of })}>
        Handles on the stage
      </Button>
      {known && result!.offset.some(Boolean) && (
        <div className="rounded bg-cloth p-2">
          <dl>
            <Fact name="Offset kept">
              {known.offset_said?.split(" · ").map((told) => (
                <span key={told} className="block text-[12.5px]">
                  {told}
                </span>
              ))}
            </Fact>
            <Fact name="Single precision there">{metric(known.rounding_received)}</Fact>
            <Fact name="Single precision here">{metric(known.rounding_now)}</Fact>
          </dl>
          <p className="pt-1 text-[12px] text-ink-soft">
            Added to what is shipped, the offset gives back the coordinates as received. It stands in the file and in
            the receipt.
          </p>
        </div>
      )}
    </div>
  );
}
