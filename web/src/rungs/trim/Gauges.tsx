import type { Views } from "../../api/client";
import { bytes, count } from "../../ui/format";

type Costs = Views["CostsView"];
export type Gauge = "triangles" | "bytes" | "pixels" | "draw_calls";

/** What is measured against a limit, what it is called, and how it is said. */
export const GAUGES: Record<Gauge, { name: string; say: (value: number) => string }> = {
  triangles: { name: "triangles", say: count },
  bytes: { name: "file size", say: bytes },
  pixels: { name: "picture side", say: (value) => `${count(value)} px` },
  draw_calls: { name: "draw calls", say: count },
};

/** The gauges that a limit says anything of, with what is there and what is allowed. */
export const limited = (limit: Views["Limit"] | null | undefined) =>
  (Object.keys(GAUGES) as Gauge[]).flatMap((gauge) => {
    const most = limit?.[gauge];
    return most ? [{ gauge, most }] : [];
  });

/** A bar for each limit, its figures aligned. */
export function Gauges({ costs, limit }: { costs: Costs; limit: Views["Limit"] }) {
  return (
    <ul className="grid grid-cols-[84px_minmax(0,1fr)_auto] items-center gap-x-2.5 gap-y-0.5 text-[12.5px]">
      {limited(limit).map(({ gauge, most }) => {
        const used = costs[gauge] ?? 0;
        const over = used > most;
        const { name, say } = GAUGES[gauge];
        return (
          <li key={gauge} className="contents">
            <span>{name}</span>
            <Bar share={used / most} label={`${name}: ${say(used)} of ${say(most)}`} />
            <span className="text-right whitespace-nowrap tabular-nums">
              <b className={`font-semibold ${over ? "text-signal" : ""}`}>{say(used)}</b> of {say(most)}
            </span>
          </li>
        );
      })}
    </ul>
  );
}

/** How much of what is allowed is used; what is over is said by colour, stripes and the figure. */
export const Bar = ({ share, label }: { share: number; label: string }) => (
  <span
    role="meter"
    aria-label={label}
    aria-valuemin={0}
    aria-valuemax={100}
    aria-valuenow={Math.min(100, Math.round(100 * share))}
    className="h-1.5 overflow-hidden rounded-full bg-cloth-deep"
  >
    <span
      className={`block h-full rounded-full ${share > 1 ? "bg-signal" : "bg-sea"}`}
      style={{ width: `${Math.min(100, 100 * share)}%` }}
    />
  </span>
);
