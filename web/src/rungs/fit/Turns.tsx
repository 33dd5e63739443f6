import { useEffect, useState } from "react";

import type { Way } from "../../api/job";
import { type Tool, useBench } from "../../bench/bench";
import { Button, OneOf } from "../../ui/controls";
import { NumberField } from "../../ui/fields";
import { useTool } from "../../bench/useTool";

const ABOUT: Tool = { id: "about", need: 1, takes: "point", hint: ["Pick the point that stays where it is."] };
const LAY: Tool = { id: "lay", need: 1, takes: "face", hint: ["Pick the face that is to lie on the ground."] };
const EDGE: Tool = { id: "edge", need: 1, takes: "edge", hint: ["Pick an edge, or a circle for its axis."] };
const AXES = ["x", "y", "z"] as const;

/** Orientation: quarter turns about a point, free angles, a face to the ground, an edge to an axis, mirrors. */
export function Turns({ of }: { of: string }) {
  const { fit } = useBench();
  const about = useTool(ABOUT);
  const lay = useTool(LAY);
  const edge = useTool(EDGE);
  const [pivot, setPivot] = useState<(typeof about.picks)[number] | null>(null);
  const [axis, setAxis] = useState<(typeof AXES)[number]>("z");
  const [degrees, setDegrees] = useState(45);
  const sources = of ? [of] : [];
  const take = (way: Way, label: string) => fit({ ...way, sources } as Way, label);
  const picked = about.picks[0];
  useEffect(() => {
    if (!picked) return;
    // eslint-disable-next-line react-hooks/set-state-in-effect -- what was picked on the stage is kept here
    setPivot(picked);
    about.done();
  }, [picked, about]);
  const face = lay.picks[0];
  useEffect(() => {
    if (!face) return;
    fit({ does: "lay", face: face.spot, sources: of ? [of] : [] }, "laid on the ground by a face");
    lay.done();
  }, [face, lay, fit, of]);
  const turn = (by: number, around = axis) =>
    take(
      { does: "turn", axis: around, degrees: by, about: pivot?.spot ?? null },
      `turned ${by}° about ${around.toUpperCase()}`,
    );
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 text-[12.5px] text-ink-soft">
          About {pivot ? `the ${pivot.said}` : "the origin"}
        </span>
        {pivot && (
          <Button quiet className="!px-0" onClick={() => setPivot(null)}>
            The origin
          </Button>
        )}
        <Button on={about.active} onClick={about.ask}>
          Pick a point
        </Button>
      </div>
      {AXES.map((one) => (
        <div key={one} className="grid grid-cols-[76px_1fr_1fr_1fr] items-center gap-1.5">
          <span>About {one.toUpperCase()}</span>
          {[-90, 90, 180].map((by) => (
            <Button
              key={by}
              aria-label={`${by > 0 && by < 180 ? "+" : ""}${by}° about ${one.toUpperCase()}`}
              onClick={() => turn(by, one)}
            >
              {by < 0 ? "−90" : by < 180 ? "+90" : by}°
            </Button>
          ))}
        </div>
      ))}
      <div className="grid grid-cols-[auto_1fr_auto] items-center gap-1.5">
        <OneOf
          label="Axis of a free turn"
          value={axis}
          options={AXES.map((value) => ({ value, label: value.toUpperCase() }))}
          onChange={setAxis}
        />
        <NumberField
          label="Degrees of a free turn"
          unit="°"
          value={degrees}
          least={-360}
          most={360}
          onSet={setDegrees}
        />
        <Button onClick={() => turn(degrees)}>Turn</Button>
      </div>
      <Button on={lay.active} onClick={lay.ask}>
        Lay a face on the ground
      </Button>
      <div className="flex items-center gap-1.5">
        <Button on={edge.active} className="flex-1" onClick={edge.ask}>
          {edge.picks[0] ? "Edge picked, goes along" : "Pick an edge to line up"}
        </Button>
        {AXES.map((one) => (
          <Button
            key={one}
            disabled={!edge.picks[0]}
            aria-label={`Along ${one.toUpperCase()}`}
            onClick={() => {
              take({ does: "along", edge: edge.picks[0]!.spot, axis: one }, `edge along ${one.toUpperCase()}`);
              edge.done();
            }}
          >
            {one.toUpperCase()}
          </Button>
        ))}
      </div>
      {edge.picks[0] && (
        <div className="grid grid-cols-[76px_1fr_1fr_1fr] items-center gap-1.5">
          <span>About it</span>
          {[-90, 90, 180].map((by) => (
            <Button
              key={by}
              aria-label={`${by === 90 ? "+" : ""}${by}° about the picked edge`}
              onClick={() => {
                take({ does: "turn", along: edge.picks[0]!.spot, degrees: by }, `turned ${by}° about an edge`);
                edge.done();
              }}
            >
              {by < 0 ? "−90" : by < 180 ? "+90" : by}°
            </Button>
          ))}
        </div>
      )}
      <div className="grid grid-cols-[76px_1fr_1fr_1fr] items-center gap-1.5">
        <span>Mirror</span>
        {AXES.map((one) => (
          <Button
            key={one}
            aria-label={`Mirror along ${one.toUpperCase()}`}
            onClick={() =>
              take({ does: "mirror", axis: one, about: pivot?.spot ?? null }, `mirrored along ${one.toUpperCase()}`)
            }
          >
            {one.toUpperCase()}
          </Button>
        ))}
      </div>
      <p className="text-[12px] text-ink-soft">A mirror keeps what was outside outside.</p>
    </div>
  );
}
