import { useBench } from "../../bench/bench";
import { Select } from "../../ui/controls";
import { CountField } from "../../ui/fields";
import { FindingLines } from "../../bench/FindingLines";
import { GAUGES, type Gauge, Gauges } from "./Gauges";

/** What the receiver allows, how much of it is used, and what to trim first where it is too much. */
export function Limits() {
  const { decisions, decide, library, result } = useBench();
  const { limit } = decisions.trim;
  const set = (change: (now: typeof limit) => typeof limit, label: string) =>
    decide((now) => ({ ...now, trim: { ...now.trim, limit: change(now.trim.limit) } }), label);
  const allow = (gauge: Gauge, most: number | null) =>
    set((now) => ({ target: now?.target ?? "", ...now, [gauge]: most }), `Limit of ${GAUGES[gauge].name}`);
  const known = library.receivers.some(({ target }) => target === limit?.target);
  return (
    <section aria-label="Limits" className="grid grid-cols-[minmax(0,1fr)] gap-1.5">
      <div className="grid grid-cols-[84px_1fr] items-center gap-2.5">
        <span>Limit of</span>
        <Select
          label="Receiver"
          value={limit ? (known ? limit.target! : "own") : "none"}
          options={[
            { value: "none", label: "nobody: no limit" },
            ...library.receivers.map(({ target }) => ({ value: target!, label: target! })),
            ...(limit && !known ? [{ value: "own", label: "a receiver of your own" }] : []),
          ]}
          onChange={(target) => {
            const found = library.receivers.find((item) => item.target === target);
            set(() => found ?? null, found ? `Limits of ${target}` : "No limit");
          }}
        />
      </div>
      {limit && result && (
        <>
          <Gauges costs={result.trim.costs} limit={limit} />
          <details className="text-[12.5px]">
            <summary className="cursor-pointer text-ink-soft">Change what is allowed</summary>
            <div className="grid grid-cols-[84px_1fr_84px_1fr] items-center gap-x-2 gap-y-1 pt-1">
              {(Object.keys(GAUGES) as Gauge[]).map((gauge) => (
                <label key={gauge} className="contents">
                  <span>
                    {gauge === "bytes" ? "Bytes" : GAUGES[gauge].name[0]!.toUpperCase() + GAUGES[gauge].name.slice(1)}
                  </span>
                  <CountField
                    label={`Allowed ${GAUGES[gauge].name}`}
                    value={limit[gauge] ?? null}
                    empty="any"
                    least={1}
                    most={1e12}
                    onSet={(most) => allow(gauge, most)}
                  />
                </label>
              ))}
            </div>
          </details>
        </>
      )}
      <FindingLines codes={["over-limit", "lost-shape", "exact-reduced"]} />
    </section>
  );
}
