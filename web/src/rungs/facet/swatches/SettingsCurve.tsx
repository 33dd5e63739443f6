import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Views } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Button, Progress } from "../../../ui/controls";
import { count, metric } from "../../../ui/format";
import { type Setting, settingSaid } from "./settings";

type Found = Views["SettingsCurve"];
type Point = Found["points"][number];

/** Milliseconds until a curve that is being measured is asked for again. */
const AGAIN = 600;
/** Parts that are measured without being asked to. */
const FEW = 12;
const [WIDE, TALL, LEFT, BELOW] = [420, 190, 58, 26];

/** Error against triangles at many settings, as far as measured; a point is used by a click. */
export function SettingsCurve({ parts, onUse }: { parts: number[]; onUse: (setting: Setting) => void }) {
  const { job, result } = useBench();
  const [wanted, setWanted] = useState(parts.length > 0 && parts.length <= FEW);
  const asked = useQuery({
    queryKey: ["facet curve", job.id, job.decisions_id, result?.model_key, parts],
    enabled: wanted,
    queryFn: async () =>
      need(await api.POST("/api/jobs/{job_id}/facet/curve", { params: { path: { job_id: job.id } }, body: { parts } })),
    placeholderData: (before) => before,
    refetchInterval: (query) => {
      const now = query.state.data;
      return now && now.measured === now.wanted ? false : AGAIN;
    },
  });
  const found = asked.data;
  return (
    <section aria-label="Triangles against error" className="grid gap-1 pt-3">
      <p className="flex items-baseline gap-3 font-semibold">
        Triangles against error
        {!wanted && (
          <Button className="font-normal" onClick={() => setWanted(true)}>
            Measure at many settings
          </Button>
        )}
        {wanted && found && found.measured < found.wanted && (
          <Button quiet className="font-normal" onClick={() => setWanted(false)}>
            Stop
          </Button>
        )}
      </p>
      {asked.isError && (
        <p role="alert" className="text-signal">
          {asked.error.message}
        </p>
      )}
      {wanted && found && found.measured < found.wanted && (
        <Progress
          share={found.measured / Math.max(1, found.wanted)}
          label={`Measured ${count(found.measured)} of ${count(found.wanted)} meshes`}
        />
      )}
      {found && <Chart found={found} onUse={onUse} />}
    </section>
  );
}

/** Powers of ten, and of two and five where they are few, between two ends. */
function ticks(low: number, high: number): number[] {
  const all = [];
  for (let power = Math.floor(Math.log10(low)); power <= Math.ceil(Math.log10(high)); power++)
    for (const step of [1, 2, 5]) all.push(step * 10 ** power);
  const inside = all.filter((value) => value >= low * 0.999 && value <= high * 1.001);
  return inside.length <= 5 ? inside : inside.filter((value) => String(value.toExponential()).startsWith("1"));
}

function Chart({ found, onUse }: { found: Found; onUse: (setting: Setting) => void }) {
  const whole = found.points.flatMap((point, at) =>
    point.known === found.parts && point.off > 0 && point.triangles > 0 ? [{ point, at }] : [],
  );
  if (whole.length < 2)
    return found.measured === found.wanted ? (
      <p className="text-[12.5px] text-ink-soft">Every setting gives the same: there is nothing round in it.</p>
    ) : null;
  const span = (of: (point: Point) => number) => {
    const values = whole.map(({ point }) => of(point));
    return [Math.min(...values) / 1.15, Math.max(...values) * 1.15] as const;
  };
  const [fewest, most] = span(({ triangles }) => triangles);
  const [least, worst] = span(({ off }) => off);
  const share = (value: number, low: number, high: number) => Math.log(value / low) / Math.log(high / low);
  const x = (triangles: number) => LEFT + share(triangles, fewest, most) * (WIDE - LEFT - 8);
  const y = (off: number) => 8 + (1 - share(off, least, worst)) * (TALL - BELOW - 8);
  const said = (point: Point) =>
    `${settingSaid(point.setting)}: ${count(point.triangles)} triangles, off by ${metric(point.off)}`;
  const knee = whole.find(({ at }) => at === found.knee)?.point;
  const now = whole.find(({ at }) => at === found.now)?.point;
  return (
    <>
      <div className="relative" style={{ aspectRatio: `${WIDE} / ${TALL}` }}>
        <svg viewBox={`0 0 ${WIDE} ${TALL}`} className="absolute inset-0 size-full" aria-hidden>
          {ticks(fewest, most).map((value) => (
            <g key={value}>
              <line x1={x(value)} x2={x(value)} y1={8} y2={TALL - BELOW} className="stroke-cloth-deep" />
              <text x={x(value)} y={TALL - 10} textAnchor="middle" className="fill-ink-soft text-[11px]">
                {count(value)}
              </text>
            </g>
          ))}
          {ticks(least, worst).map((value) => (
            <g key={value}>
              <line x1={LEFT} x2={WIDE - 8} y1={y(value)} y2={y(value)} className="stroke-cloth-deep" />
              <text x={LEFT - 6} y={y(value) + 4} textAnchor="end" className="fill-ink-soft text-[11px]">
                {metric(value)}
              </text>
            </g>
          ))}
          <polyline
            points={whole.map(({ point }) => `${x(point.triangles)},${y(point.off)}`).join(" ")}
            className="fill-none stroke-ink"
            strokeWidth={1.5}
          />
          {now && (
            <text x={x(now.triangles) + 10} y={y(now.off) - 6} className="fill-ink text-[12px] font-semibold">
              now
            </text>
          )}
          {knee && knee !== now && (
            <text x={x(knee.triangles) + 10} y={y(knee.off) - 6} className="fill-sea text-[12px] font-semibold">
              knee
            </text>
          )}
        </svg>
        {whole.map(({ point, at }) => (
          <button
            key={at}
            type="button"
            title={said(point)}
            aria-label={`Use ${said(point)}${at === found.knee ? ", the knee" : ""}${at === found.now ? ", as now" : ""}`}
            disabled={at === found.now}
            onClick={() => onUse(point.setting)}
            className={`absolute size-4 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 ${
              at === found.now
                ? "border-ink bg-ink"
                : at === found.knee
                  ? "border-sea bg-sea-pale hover:bg-sea"
                  : "border-ink bg-paper hover:bg-rope"
            }`}
            style={{ left: `${(x(point.triangles) / WIDE) * 100}%`, top: `${(y(point.off) / TALL) * 100}%` }}
          />
        ))}
      </div>
      <p className="text-[12.5px] text-ink-soft">
        Across: triangles of all placements. Up: the largest distance found from the exact shape.
        {knee ? ` Beyond the knee, at ${settingSaid(knee.setting)}, triangles buy little.` : ""} Click a point to use
        it.
      </p>
    </>
  );
}
