import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";

import { api, need, needJob, type Rule, type Views } from "../../../api/client";
import { Board } from "../../../bench/Board";
import { useBench } from "../../../bench/bench";
import { Button, OneOf, Select } from "../../../ui/controls";
import { plural } from "../../../ui/format";
import { RuleRow } from "./RuleRow";
import { useRules } from "./useRules";
import { Values } from "./Values";
import { type By, BY, choicesOf } from "./values";
import { Why } from "./Why";

/** Pixels that a rule is about high. */
const ROW = 76;

/** The table of rules in the stage's place: what each decides, every value that occurs with what it wears, and why. */
export function RulesBoard({ onClose }: { onClose: () => void }) {
  const { decisions, decide, result, structure, library, change, job } = useBench();
  const { rules } = decisions.sort;
  const [by, setBy] = useState<By>("layer");
  const asked = useRules(by);
  const told = asked.data;
  const materials = (result?.palette ?? library.materials).map((item) => ({
    value: item.id,
    label: item.name,
    swatch: item.colour,
  }));
  const set = (change: (rules: Rule[]) => Rule[], label: string) =>
    decide((now) => ({ ...now, sort: { ...now.sort, rules: change(now.sort.rules) } }), label);
  const move = (from: number, to: number) =>
    set((now) => {
      const next = [...now];
      next.splice(to, 0, ...next.splice(from, 1));
      return next;
    }, "Order of rules");
  const kinds = BY.filter(({ value }) => told?.kinds[value]);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: rules.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 6,
  });
  const names = new Map(materials.map((item) => [item.value, item.label]));
  const guesses = (told?.guesses ?? []).filter(({ by: kind }) => kind === by);
  return (
    <Board
      beside
      title="Rules"
      description={
        told ? (
          <>
            The first that matches decides.{" "}
            {told.loose_placements ? (
              <b className="font-semibold text-signal">
                {plural(told.loose_placements, "placement")} without material.
              </b>
            ) : (
              "No loose end."
            )}
          </>
        ) : (
          "Looking through what enters…"
        )
      }
      onClose={onClose}
    >
      <div className="col-span-2 grid min-h-0 grid-rows-[minmax(0,1fr)_minmax(0,1fr)] text-[13px]">
        <section aria-label="Rules in their order" className="grid min-h-0 grid-rows-[minmax(0,1fr)_auto] px-4">
          <div ref={scroller} className="min-h-0 overflow-auto" tabIndex={0} aria-label="Table of rules">
            {asked.isError && (
              <p role="alert" className="py-2 text-signal">
                {asked.error.message}
              </p>
            )}
            {!rules.length && (
              <p className="py-3 text-ink-soft">
                There is no rule yet. Give a value below a material, or add a rule: whatever has that wears it.
              </p>
            )}
            <ol className="relative" style={{ height: rows.getTotalSize() }}>
              {rows.getVirtualItems().map(({ index: number, start }) => (
                <RuleRow
                  key={number}
                  top={start}
                  measure={rows.measureElement}
                  rule={rules[number]!}
                  number={number}
                  last={number === rules.length - 1}
                  told={told?.rules.length === rules.length ? told.rules[number] : undefined}
                  materials={materials}
                  onChange={(change, label) =>
                    set((now) => now.map((one, at) => (at === number ? change(one) : one)), label)
                  }
                  onMove={move}
                  onRemove={() => set((now) => now.filter((_, at) => at !== number), "Rule removed")}
                />
              ))}
            </ol>
          </div>
          <div className="flex flex-wrap items-center gap-2 border-t border-line py-2">
            <Button
              disabled={!structure}
              onClick={() =>
                set(
                  (now) => [
                    ...now,
                    {
                      by: "layer",
                      match: [choicesOf("layer", structure)?.[0]?.value ?? "*"],
                      material: library.rule_material,
                      within: null,
                    },
                  ],
                  "Rule added",
                )
              }
            >
              Add a rule
            </Button>
            <Sets rules={rules.length} />
          </div>
        </section>
        <section
          aria-label="What occurs"
          className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto] border-t-2 border-line px-4 pt-2 pb-2"
        >
          <div className="flex items-center gap-2 pb-2">
            <span className="text-ink-soft">What occurs, by</span>
            <div className="min-w-0 overflow-x-auto">
              <OneOf
                label="Kind of value"
                value={by}
                options={kinds.map(({ value, label }) => ({ value, label: label.replace(" like", "") }))}
                onChange={setBy}
              />
            </div>
          </div>
          <div className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)]">
            <div>
              {guesses.map((guess) => (
                <p key={guess.material} className="mb-1 flex items-center gap-2 rounded bg-cloth px-2 py-1">
                  <span className="min-w-0 flex-1 truncate">
                    {guess.values.slice(0, 3).join(", ")}
                    {guess.values.length > 3 && ` and ${guess.values.length - 3} more`} may be{" "}
                    {names.get(guess.material)}, by the word {guess.words.slice(0, 2).join(", ")}.
                  </span>
                  <Button
                    quiet
                    className="!px-0"
                    aria-label={`Give it: ${names.get(guess.material)} for ${guess.values[0]}`}
                    onClick={() =>
                      change(async () =>
                        needJob(
                          await api.POST("/api/jobs/{job_id}/sort/assign", {
                            params: { path: { job_id: job.id } },
                            body: { by: guess.by, values: guess.values, material: guess.material },
                          }),
                        ),
                      )
                    }
                  >
                    Give it
                  </Button>
                </p>
              ))}
            </div>
            {told && <Values key={by} by={by} values={told.by === by ? told.values : []} materials={materials} />}
          </div>
          <Why />
        </section>
      </div>
    </Board>
  );
}

/** Rules kept for other jobs, and used from there. */
function Sets({ rules }: { rules: number }) {
  const { job, change } = useBench();
  const queries = useQueryClient();
  const { names, order } = useBench().decisions.sort;
  const grouped = order.by.length + order.groups.length + order.gathered.length > 0;
  const [name, setName] = useState<string | null>(null);
  const [also, setAlso] = useState({ names: true, order: true });
  const kept = useQuery({ queryKey: ["rule-sets"], queryFn: async () => need(await api.GET("/api/rule-sets")) });
  const keep = async () => {
    const told = name?.trim();
    setName(null);
    if (!told) return;
    const params = { path: { job_id: job.id } };
    need(await api.POST("/api/jobs/{job_id}/rule-sets", { params, body: { name: told, ...also } }));
    await queries.invalidateQueries({ queryKey: ["rule-sets"] });
  };
  return (
    <span className="ml-auto flex items-center gap-2">
      {(kept.data?.length ?? 0) > 0 && (
        <Select
          label="Use a kept set of rules"
          empty="Use a set…"
          value=""
          options={kept.data!.map((one) => ({ value: String(one.number), label: `${one.name} (${heldBy(one)})` }))}
          onChange={(number) =>
            change(async () =>
              needJob(
                await api.POST("/api/jobs/{job_id}/rule-sets/{number}", {
                  params: { path: { job_id: job.id, number: Number(number) } },
                }),
              ),
            )
          }
        />
      )}
      {name === null ? (
        <Button disabled={!rules && !names.length && !grouped} title="For other jobs" onClick={() => setName("")}>
          Keep as a set…
        </Button>
      ) : (
        <span
          className="flex items-center gap-2"
          onBlur={(event) => {
            if (!event.currentTarget.contains(event.relatedTarget)) setName(null);
          }}
        >
          {names.length > 0 && (
            <Also label="with names" on={also.names} onChange={(on) => setAlso({ ...also, names: on })} />
          )}
          {grouped && <Also label="with groups" on={also.order} onChange={(on) => setAlso({ ...also, order: on })} />}
          <input
            autoFocus
            aria-label="Name of the set"
            placeholder="Name, then Enter"
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === "Enter") void keep();
              if (event.key === "Escape") {
                event.preventDefault();
                setName(null);
              }
            }}
            className="w-40 rounded-md border border-field bg-white px-2 py-1"
          />
        </span>
      )}
    </span>
  );
}

const heldBy = ({ rules, names, order }: Views["RuleSetView"]) =>
  [plural(rules, "rule"), names && plural(names, "step of naming", "steps of naming"), order && "groups"]
    .filter(Boolean)
    .join(", ");

const Also = ({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) => (
  <label className="flex items-center gap-1.5 whitespace-nowrap">
    <input
      type="checkbox"
      checked={on}
      onChange={(event) => onChange(event.target.checked)}
      className="size-4 accent-sea"
    />
    {label}
  </label>
);
