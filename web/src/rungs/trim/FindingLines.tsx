import { goTo, useBench } from "../../bench/bench";
import { Button } from "../../ui/controls";

/** Findings of some kinds, each with what settles it. */
export function FindingLines({ codes }: { codes: string[] }) {
  const bench = useBench();
  const found = (bench.result?.findings ?? []).filter((item) => codes.includes(item.code) && !item.settled);
  return (
    <ul className="grid grid-cols-[minmax(0,1fr)]">
      {found.map((item) => (
        <li key={`${item.code} ${item.message}`} className="grid gap-1 border-l-2 border-signal py-1 pl-2">
          <p className="text-[13px]" title={item.why}>
            {item.message}
          </p>
          <div className="flex flex-wrap gap-1.5">
            {item.offers.map((offer) => (
              <Button key={offer.label} className="!px-1.5 text-left" onClick={() => bench.take(item, offer)}>
                {offer.label}
              </Button>
            ))}
            {item.parts.length > 0 && (
              <Button quiet className="!px-1.5" onClick={() => goTo(bench, item.parts)}>
                Show
              </Button>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}
