import { Popover } from "radix-ui";
import { useMemo, useState } from "react";

import { useBench } from "../bench/bench";
import { Button, OneOf } from "../ui/controls";
import { count } from "../ui/format";
import { type Facet, FACETS, type Narrowing, sharedBy } from "./facets";

const MOST = 400;

/** What the ledger is narrowed to, by what parts have in common; each with how many placements have it. */
export function Filter({ narrowing, onChange }: { narrowing: Narrowing; onChange: (next: Narrowing) => void }) {
  const { structure, result, view, locked } = useBench();
  const [open, setOpen] = useState(false);
  const [facet, setFacet] = useState<Facet>("state");
  const [text, setText] = useState("");
  const shared = useMemo(
    () => (open && structure && result ? sharedBy(facet, structure, result, view.hidden, locked) : []),
    [open, facet, structure, result, view.hidden, locked],
  );
  const total = [...narrowing.values()].reduce((sum, values) => sum + values.size, 0);
  const wanted = text.trim().toLowerCase();
  const shown = shared.filter(({ label }) => label.toLowerCase().includes(wanted));
  const flip = (value: string) => {
    const next = new Map(narrowing);
    const values = new Set(next.get(facet));
    if (!values.delete(value)) values.add(value);
    if (values.size) next.set(facet, values);
    else next.delete(facet);
    onChange(next);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        disabled={!result}
        className={`rounded-md border px-2.5 py-1 text-[13px] font-semibold whitespace-nowrap disabled:opacity-45 ${total ? "border-sea bg-sea-pale" : "border-line bg-paper hover:border-rope-light"}`}
      >
        {total ? `Filter: ${total}` : "Filter…"}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={6}
          aria-label="Filter"
          className="z-50 grid w-[520px] gap-2 rounded-md border border-line bg-paper p-3 text-[13px] shadow-lg"
        >
          <OneOf
            label="Filter by"
            value={facet}
            options={FACETS.map((value) => ({ value, label: value }))}
            onChange={(next) => {
              setFacet(next);
              setText("");
            }}
          />
          {shared.length > 12 && (
            <input
              aria-label={`Find a ${facet}`}
              placeholder="Find…"
              value={text}
              onChange={(event) => setText(event.target.value)}
              className="rounded-md border border-field bg-white px-2 py-1"
            />
          )}
          <ul className="max-h-64 overflow-auto">
            {shown.slice(0, MOST).map(({ value, label, placements, parts }) => (
              <li key={value}>
                <label className="flex items-center gap-2 border-b border-cloth-deep py-1">
                  <input
                    type="checkbox"
                    checked={narrowing.get(facet)?.has(value) ?? false}
                    onChange={() => flip(value)}
                    className="size-4 accent-sea"
                  />
                  <span className="min-w-0 flex-1 truncate" title={label}>
                    {label}
                  </span>
                  <span className="text-ink-soft tabular-nums">
                    {count(parts.size)} / {count(placements)}×
                  </span>
                </label>
              </li>
            ))}
            {!shown.length && <li className="py-1 text-ink-soft">There is none.</li>}
          </ul>
          <div className="flex items-center gap-3 text-ink-soft">
            <span>parts / placements</span>
            <Button quiet className="ml-auto !px-0" disabled={!total} onClick={() => onChange(new Map())}>
              No filter
            </Button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
