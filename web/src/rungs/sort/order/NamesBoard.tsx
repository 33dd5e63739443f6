import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";

import { api, need, type Decisions, type Views } from "../../../api/client";
import { Board } from "../../../bench/Board";
import { useBench } from "../../../bench/bench";
import { Button, Select, Switch } from "../../../ui/controls";
import { count, plural } from "../../../ui/format";
import { WhomField } from "./WhomField";

type Step = Views["Rename"];
type Kept = Decisions["sort"]["names"][number];

const KINDS = [
  { value: "prefix", label: "put before" },
  { value: "suffix", label: "put behind" },
  { value: "replace", label: "replace" },
  { value: "pattern", label: "replace by pattern" },
  { value: "number", label: "number" },
  { value: "from", label: "name after" },
] as const;
type Kind = (typeof KINDS)[number]["value"];
const FIELDS = ["layer", "material", "class", "storey", "source", "part"].map((value) => ({ value, label: value }));

interface Draft {
  kind: Kind;
  text: string;
  find: string;
  field: string;
  digits: number;
  start: number;
  keepGood: boolean;
  whom: Step["whom"];
}
const FRESH: Draft = {
  kind: "prefix",
  text: "",
  find: "",
  field: "layer",
  digits: 3,
  start: 1,
  keepGood: false,
  whom: { by: "all", match: [] },
};

/** A step as rules of the job have it; none while something is missing. */
function stepOf(draft: Draft): Kept | null {
  const { kind, text, find, field, whom } = draft;
  const shared = { whom: whom ?? FRESH.whom!, start: draft.start, digits: draft.digits, keep_good: draft.keepGood };
  const plain = { find: "", pattern: false, ...shared };
  if (kind === "prefix") return text ? ({ ...plain, to: `${text}{name}` } as Kept) : null;
  if (kind === "suffix") return text ? ({ ...plain, to: `{name}${text}` } as Kept) : null;
  if (kind === "number") return { ...plain, to: `${text || "{name} "}{n}` } as Kept;
  if (kind === "from") return { ...plain, to: `{${field}}${text}` } as Kept;
  return find ? ({ ...plain, find, pattern: kind === "pattern", to: text } as Kept) : null;
}

/** A step in words. */
function said(step: Kept): string {
  const whom = step.whom.by === "all" ? "" : `, ${step.whom.by} ${step.whom.match.slice(0, 2).join(" or ")}`;
  const what = step.find
    ? `${step.pattern ? "pattern " : ""}“${step.find}” becomes “${step.to}”`
    : `named “${step.to}”`;
  return `${what}${whom}${step.keep_good ? ", what says nothing only" : ""}`;
}

/** Names in bulk: steps in their order, a new one being written, and what names become. */
export function NamesBoard({ onClose }: { onClose: () => void }) {
  const { decisions, decide, job, result } = useBench();
  const steps = decisions.sort.names;
  const [draft, setDraft] = useState(FRESH);
  const change = (some: Partial<Draft>) => setDraft((now) => ({ ...now, ...some }));
  const fresh = useDeferredValue(stepOf(draft));
  const tried = fresh ? [...steps, fresh] : steps;
  const asked = useQuery({
    queryKey: ["names", job.id, job.decisions_id, result?.model_key, tried],
    queryFn: async () =>
      need(
        await api.POST("/api/jobs/{job_id}/sort/names", {
          params: { path: { job_id: job.id } },
          body: { steps: tried as Step[] },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });
  const told = asked.data;
  const set = (change: (names: readonly Kept[]) => Kept[], label: string) =>
    decide((now) => ({ ...now, sort: { ...now.sort, names: change(now.sort.names) } }), label);
  const field = "min-w-0 rounded-md border border-field bg-white px-2 py-1";
  return (
    <Board
      title="Names"
      description={
        told
          ? `${count(told.changed)} of ${plural(told.placements, "name")} ${told.changed === 1 ? "changes" : "change"}${told.clashes ? `, ${plural(told.clashes, "clash", "clashes")} solved by a number` : ""}${told.cut ? `, ${count(told.cut)} cut short` : ""}.`
          : "Reading the names…"
      }
      onClose={onClose}
    >
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)] content-start gap-2.5 overflow-auto border-r border-line px-4 py-3 text-[13px]">
        <h3 className="font-semibold">Steps</h3>
        {!steps.length && <p className="text-ink-soft">None yet: everything is called as it came.</p>}
        <ol aria-label="Steps that rename" className="grid grid-cols-[minmax(0,1fr)] gap-1">
          {steps.map((step, at) => (
            <li key={at} className="flex items-center gap-2 rounded border border-cloth-deep bg-white px-2 py-1">
              <span className="text-ink-soft tabular-nums">{at + 1}</span>
              <span className="min-w-0 flex-1 truncate" title={said(step)}>
                {said(step)}
              </span>
              <Button
                quiet
                className="!px-1"
                aria-label={`Remove step ${at + 1}`}
                onClick={() => set((now) => now.filter((_, k) => k !== at), "A step of naming removed")}
              >
                ×
              </Button>
            </li>
          ))}
        </ol>
        <form
          aria-label="A new step"
          className="grid grid-cols-[96px_minmax(0,1fr)] items-center gap-x-2 gap-y-1.5 border-t border-dashed border-line pt-2.5"
          onSubmit={(event) => {
            event.preventDefault();
            const step = stepOf(draft);
            if (!step || asked.isError) return;
            set((now) => [...now, step], "Renamed");
            setDraft((now) => ({ ...FRESH, kind: now.kind }));
          }}
        >
          <span className="text-ink-soft">What to do</span>
          <Select
            label="What to do"
            value={draft.kind}
            options={KINDS}
            onChange={(kind) => change({ kind: kind as Kind })}
          />
          {(draft.kind === "replace" || draft.kind === "pattern") && (
            <label className="contents">
              <span className="text-ink-soft">{draft.kind === "pattern" ? "Pattern" : "This"}</span>
              <input
                aria-label="Find"
                value={draft.find}
                onChange={(event) => change({ find: event.target.value })}
                className={field}
              />
            </label>
          )}
          {draft.kind === "from" && (
            <>
              <span className="text-ink-soft">Its</span>
              <Select
                label="Named after its"
                value={draft.field}
                options={FIELDS}
                onChange={(value) => change({ field: value })}
              />
            </>
          )}
          <label className="contents">
            <span className="text-ink-soft">
              {draft.kind === "number"
                ? "Before it"
                : draft.kind === "from"
                  ? "And then"
                  : draft.find
                    ? "By this"
                    : "Text"}
            </span>
            <input
              aria-label="Text"
              placeholder={draft.kind === "number" ? "the name itself" : draft.kind === "from" ? " {n}" : ""}
              value={draft.text}
              onChange={(event) => change({ text: event.target.value })}
              className={field}
            />
          </label>
          {stepOf(draft)?.to.includes("{n}") && (
            <>
              <span className="text-ink-soft">Numbers</span>
              <span className="flex items-center gap-2">
                from
                <input
                  type="number"
                  aria-label="First number"
                  min={0}
                  value={draft.start}
                  onChange={(event) => change({ start: Math.max(0, Math.floor(Number(event.target.value) || 0)) })}
                  className={`${field} w-20`}
                />
                with
                <input
                  type="number"
                  aria-label="Digits"
                  min={1}
                  max={9}
                  value={draft.digits}
                  onChange={(event) =>
                    change({ digits: Math.min(9, Math.max(1, Math.floor(Number(event.target.value) || 1))) })
                  }
                  className={`${field} w-14`}
                />
                digits
              </span>
            </>
          )}
          <span className="text-ink-soft">Of</span>
          <WhomField whom={draft.whom!} onChange={(whom) => change({ whom })} />
          <span className="text-ink-soft">Well named</span>
          <span className="flex items-center gap-2">
            <Switch label="Keep what is well named" on={draft.keepGood} onChange={(keepGood) => change({ keepGood })} />
            stays as it is
          </span>
          <p className="col-span-2 text-[12.5px] text-ink-soft">
            In a text, {"{name}"}, {"{layer}"}, {"{material}"}, {"{class}"}, {"{storey}"}, {"{source}"}, {"{part}"} and{" "}
            {"{n}"} stand for what each has.
          </p>
          {asked.isError && (
            <p role="alert" className="col-span-2 text-signal">
              {asked.error.message}
            </p>
          )}
          <span />
          <button
            type="submit"
            disabled={!stepOf(draft) || asked.isError}
            className="justify-self-start rounded-md border border-ink bg-ink px-2.5 py-1 font-semibold text-white disabled:opacity-45"
          >
            Rename
          </button>
        </form>
      </div>
      <div className="min-h-0 overflow-auto px-4 py-3 text-[13px]" tabIndex={0} aria-label="Names before and after">
        <table className="w-full table-fixed border-collapse">
          <thead className="sticky top-0 bg-paper text-[12px] text-ink-soft">
            <tr className="border-b border-line text-left">
              <th className="py-1 font-medium">As it came</th>
              <th className="font-medium">As it will be called</th>
              <th className="w-[86px] text-right font-medium">Placements</th>
            </tr>
          </thead>
          <tbody aria-busy={asked.isPlaceholderData}>
            {told?.names.map(({ before, after, times }) => (
              <tr key={`${before} ${after}`} className="border-b border-cloth-deep">
                <td className="truncate py-1 text-ink-soft" title={before}>
                  {before}
                </td>
                <td className="truncate font-semibold" title={after}>
                  {after}
                </td>
                <td className="text-right tabular-nums">{count(times)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {told && !told.names.length && (
          <p className="py-3 text-ink-soft">
            Nothing is called otherwise yet.{" "}
            {told.unnamed > 0 &&
              `${plural(told.unnamed, "name")} ${told.unnamed === 1 ? "says" : "say"} nothing, such as a bare number.`}
          </p>
        )}
        {told && told.names.length < told.changed && told.names.length >= 300 && (
          <p className="py-2 text-ink-soft">The first 300 are shown.</p>
        )}
      </div>
    </Board>
  );
}
