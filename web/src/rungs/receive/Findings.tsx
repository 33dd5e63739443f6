import type { Finding, Structure } from "../../api/client";
import { goTo, useBench } from "../../bench/bench";
import { Button } from "../../ui/controls";
import { count } from "../../ui/format";
import { merged } from "./merged";

const MARK = { error: "bg-signal text-white", warning: "bg-signal-pale text-signal", note: "bg-cloth-deep text-ink" };
/** What is said of a whole source has no list of parts. */
const WHOLE = new Set(["unit-missing", "unit-doubtful", "unit-odd", "far-from-origin"]);

/** What was noticed, the gravest first: about the files as they came, and about the triangles now. */
export function Findings() {
  const { job, result } = useBench();
  const ready = job.sources.some((source) => source.state === "ready");
  const findings = merged([...job.sources.flatMap((source) => source.findings), ...(result?.findings ?? [])]);
  if (!findings.length)
    return ready ? <p className="pt-2.5 text-ink-soft">Nothing in the files is worth a remark.</p> : null;
  return (
    <section aria-label="Findings" className="pt-2.5">
      <h3 className="font-name pb-1 text-[14px] font-semibold">Noticed</h3>
      <ul>
        {findings.map((group) => (
          <FindingItem key={`${group[0]!.source} ${group[0]!.code} ${group[0]!.message}`} group={group} />
        ))}
      </ul>
    </section>
  );
}

/** One finding, or the same of several sources. */
function FindingItem({ group }: { group: Finding[] }) {
  const bench = useBench();
  const [item] = group as [Finding];
  const here = bench.structure ? group.flatMap((one) => partsOf(one, bench.structure!)) : [];
  const { sources } = bench.job;
  const names = group.map((one) => sources.find((source) => source.ref === one.source)?.name ?? "");
  const of =
    sources.length < 2 || !names[0]
      ? ""
      : group.length === 1
        ? names[0]
        : group.length === sources.length
          ? `All ${count(sources.length)} sources`
          : names.length < 4
            ? names.join(", ")
            : `${count(names.length)} sources`;
  return (
    <li className={`border-t border-cloth-deep py-2 ${item.settled ? "text-ink-soft" : ""}`}>
      <p>
        <span
          className={`mr-1.5 rounded px-1.5 py-px text-[11.5px] font-semibold ${item.settled ? "bg-sea-pale text-sea" : MARK[item.severity]}`}
        >
          {item.settled ? "settled" : item.severity}
        </span>
        {of && (
          <span className="text-ink-soft" title={names.join(", ")}>
            {of}:{" "}
          </span>
        )}
        {item.message}
      </p>
      <p className="pt-0.5 text-[12.5px] text-ink-soft">
        {item.why} {item.remedy}
      </p>
      <div className="flex flex-wrap items-center gap-1.5 pt-1">
        {!item.settled &&
          item.offers.map((offer) => (
            <Button key={offer.label} onClick={() => group.forEach((one) => bench.take(one, offer))}>
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
