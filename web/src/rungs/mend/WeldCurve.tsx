import { useBench } from "../../bench/bench";
import { count, metric } from "../../ui/format";
import type { Step } from "../../bench/operations/operation";
import { useCurve } from "./useStudy";

const [WIDE, HIGH] = [286, 56];

/** Vertices left at every weld tolerance, with the one in force, and the place where detail would begin to collapse. */
export function WeldCurve({ part, step }: { part: number; step: Step | null }) {
  const { result, structure } = useBench();
  const curve = useCurve(part);
  if (!curve) return <p className="text-[12px] text-ink-soft">Working out what welding would join…</p>;
  const { tolerances, left, places } = curve;
  if (!tolerances?.length || !left || !places) return null;
  // The curve is in the part's own coordinates.
  const member =
    structure?.members.findIndex((one) => part >= one.first_part && part < one.first_part + one.parts) ?? 0;
  const scale = Math.hypot(...(result?.sources[Math.max(0, member)]?.matrix.slice(0, 3) ?? [1, 0, 0]));
  const [from, to] = [tolerances[0]! * scale, tolerances.at(-1)! * scale];
  const x = (metres: number) =>
    to > from ? Math.max(0, Math.min(WIDE, (Math.log(metres / from) / Math.log(to / from)) * WIDE)) : 0;
  const y = (places_: number) => HIGH - 4 - (places_ / places) * (HIGH - 10);
  const points = tolerances.map((tolerance, at) => `${x(tolerance * scale).toFixed(1)},${y(left[at]!).toFixed(1)}`);
  const now = step?.does === "weld" ? Number(step.tolerance) : null;
  const collapse = curve.collapse == null ? null : curve.collapse * scale;
  const nearest = now === null ? -1 : tolerances.findLastIndex((tolerance) => tolerance * scale <= now);
  const here = nearest < 0 ? null : left[nearest]!;
  return (
    <figure className="text-[12px] text-ink-soft">
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={`Places left by tolerance, from ${count(places)}${collapse === null ? "" : `; detail begins to collapse at ${metric(collapse)}`}`}
        className="h-14 w-full rounded border border-line bg-white"
        preserveAspectRatio="none"
      >
        {collapse !== null && (
          <rect x={x(collapse)} y={0} width={WIDE - x(collapse)} height={HIGH} className="fill-signal-pale" />
        )}
        <polyline points={points.join(" ")} fill="none" className="stroke-ink" strokeWidth={1.5} />
        {now !== null && (
          <line
            x1={x(now)}
            x2={x(now)}
            y1={0}
            y2={HIGH}
            className="stroke-sea"
            strokeWidth={1.5}
            strokeDasharray="3 2"
          />
        )}
      </svg>
      <figcaption className="flex justify-between gap-2 pt-0.5 tabular-nums">
        <span>{metric(from)}</span>
        <span>
          {here === null ? `${count(places)} places` : `${count(here)} of ${count(places)} places left`}
          {collapse !== null && (
            <span className={now !== null && now >= collapse ? "font-semibold text-signal" : ""}>
              {" "}
              · collapses from {metric(collapse)}
            </span>
          )}
        </span>
        <span>{metric(to)}</span>
      </figcaption>
    </figure>
  );
}
