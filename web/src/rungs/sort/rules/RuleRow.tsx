import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useMemo, useState } from "react";

import { api, need, type Rule } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Button, Select } from "../../../ui/controls";
import { count, plural } from "../../../ui/format";
import type { Told } from "./useRules";
import { type By, BY, type Choice, choicesOf, placeOf, placesOf, withPlace } from "./values";

const SHOWN = 3;

/** One rule: what it looks at, what that must be, where, what it gives; and what it comes to. */
export function RuleRow({
  rule,
  number,
  top,
  measure,
  told,
  last,
  materials,
  onChange,
  onMove,
  onRemove,
}: {
  rule: Rule;
  number: number;
  /** Where it lies in its list, and who is told how high it is. */
  top: number;
  measure: (row: HTMLElement | null) => void;
  told: Told | undefined;
  last: boolean;
  materials: readonly Choice[];
  onChange: (change: (now: Rule) => Rule, label: string) => void;
  onMove: (from: number, to: number) => void;
  onRemove: () => void;
}) {
  const { structure } = useBench();
  const [over, setOver] = useState(false);
  const [asked, setAsked] = useState(false);
  const places = useMemo(() => placesOf(structure), [structure]);
  const name = `rule ${number + 1}`;
  const press = (event: KeyboardEvent) => {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!by || !event.altKey) return;
    event.preventDefault();
    if (by < 0 ? number > 0 : !last) onMove(number, number + by);
  };
  return (
    <li
      ref={measure}
      data-index={number}
      aria-posinset={number + 1}
      style={{ transform: `translateY(${top}px)` }}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        const from = Number(event.dataTransfer.getData("text/rule"));
        if (Number.isInteger(from) && from !== number) onMove(from, number);
      }}
      className={`absolute inset-x-0 grid grid-cols-[26px_minmax(0,1fr)] gap-x-1.5 border-b border-cloth-deep py-2 ${over ? "bg-sea-pale" : ""}`}
    >
      <button
        type="button"
        draggable
        onDragStart={(event) => event.dataTransfer.setData("text/rule", String(number))}
        onKeyDown={press}
        aria-label={`${number + 1}, ${name}: drag to move, or press Alt with an arrow key`}
        className="grid h-7 cursor-grab place-content-center rounded border border-dashed border-line text-[12.5px] tabular-nums text-ink-soft"
      >
        {number + 1}
      </button>
      <div className="grid min-w-0 gap-1">
        <div className="grid grid-cols-[92px_minmax(0,1.3fr)_auto_minmax(0,1fr)_auto] items-center gap-1.5">
          <Select
            label={`Rule ${number + 1} looks at`}
            value={rule.by}
            options={BY}
            onChange={(by) =>
              onChange(
                (now) => ({ ...now, by: by as By, match: [choicesOf(by as By, structure)?.[0]?.value ?? "*"] }),
                "Rule",
              )
            }
          />
          <Words
            rule={rule}
            number={number}
            onChange={(change) => onChange((now) => ({ ...now, match: change(now.match) }), "Rule")}
          />
          <span aria-hidden className="text-ink-soft">
            wears
          </span>
          <Select
            label={`Material of rule ${number + 1}`}
            value={rule.material}
            options={materials}
            onChange={(material) => onChange((now) => ({ ...now, material }), "Material of a rule")}
          />
          <Button quiet className="!px-1" aria-label={`Remove rule ${number + 1}`} onClick={onRemove}>
            ×
          </Button>
        </div>
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[12.5px] text-ink-soft">
          {places.length > 1 && (
            <Select
              label={`Rule ${number + 1} holds`}
              className="!px-1.5 !py-0 !text-[12.5px]"
              value={placeOf(rule)}
              options={
                places.some(({ value }) => value === placeOf(rule))
                  ? places
                  : [...places, { value: placeOf(rule), label: placeOf(rule) }]
              }
              onChange={(place) => onChange((now) => withPlace(now, place), "Where a rule holds")}
            />
          )}
          {told && <Figures told={told} name={name} />}
          <button
            type="button"
            aria-expanded={asked}
            onClick={() => setAsked((now) => !now)}
            className="underline decoration-line underline-offset-4 hover:decoration-ink"
          >
            What if it were gone?
          </button>
        </div>
        {asked && <Without number={number} />}
      </div>
    </li>
  );
}

function Figures({ told, name }: { told: Told; name: string }) {
  if (!told.known) return <b className="font-semibold text-signal">The material it gives is gone.</b>;
  if (told.placements)
    return (
      <span>
        decides {plural(told.placements, "placement")}
        {told.triangles > 0 && `, ${count(told.triangles)} triangles`}
      </span>
    );
  if (!told.matches) return <b className="font-semibold text-signal">never decides: nothing that enters has that</b>;
  const by = told.shadowed_by.map(({ rule }) => rule + 1);
  return (
    <b className="font-semibold text-signal">
      never decides:{" "}
      {by.length
        ? `rule ${by.join(", ")} ${by.length > 1 ? "speak" : "speaks"} first`
        : `what ${name} looks at wears its own`}
    </b>
  );
}

/** What would be worn without a rule. */
function Without({ number }: { number: number }) {
  const { job } = useBench();
  const asked = useQuery({
    queryKey: ["without", job.id, job.decisions_id, number],
    queryFn: async () =>
      need(
        await api.GET("/api/jobs/{job_id}/sort/rules/{number}/without", {
          params: { path: { job_id: job.id, number } },
        }),
      ),
  });
  if (!asked.data)
    return <p className="text-[12.5px] text-ink-soft">{asked.isError ? asked.error.message : "Working it out…"}</p>;
  const { differences, loose_placements: loose } = asked.data;
  return (
    <p role="status" className="rounded bg-cloth px-2 py-1 text-[12.5px]">
      {differences.length
        ? differences
            .slice(0, 4)
            .map(({ before, after, placements }) => `${plural(placements, "placement")} from ${before} to ${after}`)
            .join("; ")
        : "Nothing would wear anything else"}
      .{loose > 0 && <b className="font-semibold text-signal"> {plural(loose, "more loose placement")}.</b>}
    </p>
  );
}

/** The words that a rule matches: each can be let go, and others added. */
function Words({
  rule,
  number,
  onChange,
}: {
  rule: Rule;
  number: number;
  onChange: (change: (now: string[]) => string[]) => void;
}) {
  const { structure } = useBench();
  const [text, setText] = useState("");
  const [all, setAll] = useState(false);
  const choices = useMemo(() => choicesOf(rule.by, structure), [rule.by, structure]);
  const labels = useMemo(() => new Map(choices?.map(({ value, label }) => [value, label])), [choices]);
  const add = (word: string) => {
    if (word && !rule.match.includes(word)) onChange((now) => [...now.filter((one) => one !== word), word]);
    setText("");
  };
  const shown = all ? rule.match : rule.match.slice(0, SHOWN);
  const label = `Rule ${number + 1} matches`;
  const alone = rule.match.length === 1;
  return (
    <div className="flex min-w-0 flex-wrap items-center gap-1">
      {alone && choices && (
        <Select
          label={label}
          className="min-w-0 flex-1"
          value={rule.match[0]!}
          options={
            labels.has(rule.match[0]!) ? choices : [{ value: rule.match[0]!, label: rule.match[0]! }, ...choices]
          }
          onChange={(word) => onChange(() => [word])}
        />
      )}
      {(alone && choices ? [] : shown).map((word) => (
        <span key={word} className="flex max-w-full items-center rounded border border-line bg-white text-[12.5px]">
          <span className="truncate py-0.5 pl-1.5" title={labels.get(word) ?? word}>
            {labels.get(word) ?? word}
          </span>
          {!alone && (
            <button
              type="button"
              aria-label={`Rule ${number + 1} without ${labels.get(word) ?? word}`}
              onClick={() => onChange((now) => now.filter((one) => one !== word))}
              className="px-1.5 py-0.5 text-ink-soft hover:text-ink"
            >
              ×
            </button>
          )}
        </span>
      ))}
      {rule.match.length > SHOWN && (
        <button type="button" className="text-[12.5px] underline" onClick={() => setAll((now) => !now)}>
          {all ? "fewer" : `${rule.match.length - SHOWN} more`}
        </button>
      )}
      {choices ? (
        <Select
          label={`${label} too`}
          empty="or…"
          className="!px-1.5 !py-0.5 !text-[12.5px]"
          value=""
          options={choices.filter(({ value }) => !rule.match.includes(value))}
          onChange={add}
        />
      ) : (
        <input
          aria-label={`${label} too`}
          placeholder="or like…"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onBlur={() => text.trim() && add(text.trim())}
          onKeyDown={(event) => event.key === "Enter" && text.trim() && add(text.trim())}
          className="w-20 min-w-0 rounded-md border border-field bg-white px-1.5 py-0.5 text-[12.5px]"
        />
      )}
    </div>
  );
}
