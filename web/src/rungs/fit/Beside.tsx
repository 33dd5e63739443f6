import type { Views } from "../../api/client";
import type { Way } from "../../api/job";
import { type Tool, useBench } from "../../bench/bench";
import { Button, Select } from "../../ui/controls";
import { metric } from "../../ui/format";
import { useTool } from "../../bench/useTool";
import { useLook } from "./useFit";

type Pick = Views["SpotView"];
const HINT = [
  "Pick a point of the source that is to move.",
  "Pick where it belongs, on another source.",
  "Take it, or pick one more pair: the point that moves first.",
  "Pick where that one belongs.",
  "Take it, or pick a third pair.",
  "Pick where that one belongs.",
];
const TOOL: Tool = { id: "pairs", need: 6, takes: "point", hint: HINT };

/** Sources brought onto one another: by pairs of points, or all to the place of one. */
export function Beside({ of, names }: { of: string; names: Record<string, string> }) {
  const { fit, result } = useBench();
  const tool = useTool(TOOL);
  const pairs: { point: Pick["spot"]; onto: Pick["spot"] }[] = [];
  for (let at = 0; at + 1 < tool.picks.length; at += 2)
    pairs.push({ point: tool.picks[at]!.spot, onto: tool.picks[at + 1]!.spot });
  const { look, problem } = useLook(pairs.length ? { does: "align", pairs } : null);
  const refs = result!.sources.map((source) => source.ref);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2">
      <p className="text-[12.5px] text-ink-soft">
        One pair of points moves a source, two turn it about the up axis too, three fix it wholly.
      </p>
      <Button on={tool.active} onClick={tool.ask}>
        {tool.active ? "Stop picking" : "Pick pairs of points"}
      </Button>
      {pairs.map((_, at) => (
        <p key={at} className="text-[12.5px]">
          <b className="font-semibold">{at + 1}</b> {tool.picks[at * 2]!.said} to {tool.picks[at * 2 + 1]!.said}
          {look?.residuals && <span className="text-ink-soft"> · {metric(look.residuals[at] ?? 0)} off</span>}
        </p>
      ))}
      {problem && (
        <p role="alert" className="text-[12.5px] text-signal">
          {problem}
        </p>
      )}
      {pairs.length > 0 && look && !problem && (
        <Button
          main
          onClick={() => {
            fit(
              { does: "align", pairs } as Way,
              `aligned by ${pairs.length === 1 ? "a pair" : `${pairs.length} pairs`} of points`,
            );
            tool.done();
          }}
        >
          Bring it there
        </Button>
      )}
      <label className="grid grid-cols-[76px_1fr] items-center gap-2.5">
        All like
        <Select
          label="All sources take turn and place of"
          empty="one source…"
          value=""
          options={refs.map((ref) => ({ value: ref, label: names[ref] ?? ref }))}
          onChange={(source) => fit({ does: "like", source }, `all share the datum of ${names[source] ?? source}`)}
        />
      </label>
      {of && <p className="text-[12px] text-ink-soft">Pairs move the source that the first point is on.</p>}
    </div>
  );
}
