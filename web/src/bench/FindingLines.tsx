import { goTo, useBench } from "./bench";
import { Button } from "../ui/controls";
import { plural } from "../ui/format";

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
          <ul className="grid grid-cols-[minmax(0,1fr)] gap-1">
            {item.offers.map((offer) => (
              <li key={offer.label}>
                <Button className="w-full !px-1.5 text-left !whitespace-normal" onClick={() => bench.take(item, offer)}>
                  <Worth label={offer.label} />
                </Button>
              </li>
            ))}
          </ul>
          {item.parts.length > 0 && (
            <Button quiet className="justify-self-start !px-0 !py-0" onClick={() => goTo(bench, item.parts)}>
              Show {plural(item.parts.length, "part")}
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** A remedy, and apart from it what it buys. */
function Worth({ label }: { label: string }) {
  const [, what, buys] = /^(.*?)(?: \((buys .*)\))?$/.exec(label) ?? [];
  return (
    <>
      {what}
      {buys && <span className="block text-[12px] font-normal text-ink-soft">{buys}</span>}
    </>
  );
}
