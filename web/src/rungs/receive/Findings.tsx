import type { Finding, Structure } from "../../api/client";
import { goTo, useBench } from "../../bench/bench";
import { Button } from "../../ui/controls";
import { count } from "../../ui/format";

const GRAVITY = { error: 0, warning: 1, note: 2 };
const MARK = { error: "bg-signal text-white", warning: "bg-signal-pale text-signal", note: "bg-cloth-deep text-ink" };
/** What is said of a whole source has no list of parts. */
const WHOLE = new Set(["unit-missing", "unit-doubtful", "unit-odd", "far-from-origin"]);

/** What was noticed, the gravest first: about the files as they came, and about the triangles now. */
export function Findings() {
  const { job, result } = useBench();
  const ready = job.sources.some((source) => source.state === "ready");
  const findings = [...job.sources.flatMap((source) => source.findings), ...(result?.findings ?? [])].sort(
    (a, b) => Number(a.settled) - Number(b.settled) || GRAVITY[a.severity] - GRAVITY[b.severity],
  );
  if (!findings.length)
    return ready ? <p className="pt-2.5 text-ink-soft">Nothing in the files is worth a remark.</p> : null;
  return (
    <section aria-label="Findings" className="pt-2.5">
      <h3 className="font-name pb-1 text-[14px] font-semibold">Noticed</h3>
      <ul>
        {findings.map((item) => (
          <FindingItem key={`${item.source} ${item.code} ${item.message}`} item={item} />
        ))}
      </ul>
    </section>
  );
}

function FindingItem({ item }: { item: Finding }) {
  const bench = useBench();
  const here = bench.structure ? partsOf(item, bench.structure) : [];
  const several = bench.job.sources.length > 1;
  const name = bench.job.sources.find((source) => source.ref === item.source)?.name;
  return (
    <li className={`border-t border-cloth-deep py-2 ${item.settled ? "opacity-80" : ""}`}>
      <p>
        <span
          className={`mr-1.5 rounded px-1.5 py-px text-[11.5px] font-semibold ${item.settled ? "bg-sea-pale text-sea" : MARK[item.severity]}`}
        >
          {item.settled ? "settled" : item.severity}
        </span>
        {several && name && <span className="text-ink-soft">{name}: </span>}
        {item.message}
      </p>
      <p className="pt-0.5 text-[12.5px] text-ink-soft">
        {item.why} {item.remedy}
      </p>
      <div className="flex flex-wrap items-center gap-1.5 pt-1">
        {!item.settled &&
          item.offers.map((offer) => (
            <Button key={offer.label} onClick={() => bench.take(item, offer)}>
              {offer.label}
            </Button>
          ))}
        {here.length > 0 && (
          <Button quiet onClick={() => goTo(bench, here)}>
            Show {here.length === 1 ? "it" : `these ${count(here.length)}`}
          </Button>
        )}
      </div>
    </li>
  );
}

function partsOf(item: Finding, structure: Structure): number[] {
  if (!WHOLE.has(item.code)) return item.parts.filter((part) => part < structure.parts.length);
  const piece = structure.members.find((one) => one.ref === item.source);
  return piece ? Array.from({ length: piece.parts }, (_, at) => piece.first_part + at) : [];
}
