import type { Finding } from "../../api/client";
import { goTo, useBench } from "../../bench";
import { Button, Fact, Progress } from "../../ui/controls";
import { box, boxImperial, bytes, count } from "../../ui/format";

interface Facts {
  format: string;
  schema: string;
  writer: string;
  bytes: number;
  unit: string | null;
  parts: number;
  placements: number;
  layers: number;
  colours: number;
  size: number[];
}

const STAGES: Record<string, string> = {
  reading: "Reading the file",
  translating: "Translating shapes",
  parts: "Collecting parts",
};

/** What the file declares, and what was noticed about it. */
export function Receive() {
  const bench = useBench();
  const { source } = bench.job;
  const findings = [...source.findings, ...(bench.result?.findings ?? [])].sort(
    (a, b) => GRAVITY[a.severity] - GRAVITY[b.severity],
  );
  const facts = source.facts as unknown as Facts | null;
  const busy = source.state === "waiting" || source.state === "reading";
  return (
    <div className="text-[13.5px]">
      <p className="truncate pb-1" title={source.files.map((file) => String(file.name)).join(", ")}>
        {String(source.files[0]?.name)}
        {source.files.length > 1 && ` and ${source.files.length - 1} more`}
      </p>
      {busy && (
        <div className="grid gap-2">
          <Progress share={null} label="Reading" />
          <p className="text-ink-soft" aria-live="polite">
            {STAGES[source.stage] ?? "Waiting for a worker"}
            {source.count > 0 && `: ${count(source.count)}`}
          </p>
          <Button className="justify-self-start" onClick={() => bench.act("cancel")}>
            Stop
          </Button>
        </div>
      )}
      {source.state === "cancelled" && <Button onClick={() => bench.act("resume")}>Read it after all</Button>}
      {facts && source.state === "ready" && (
        <dl>
          <Fact name="Declares">{`${facts.format} ${facts.schema}`}</Fact>
          <Fact name="Written by">{facts.writer || "not said"}</Fact>
          <Fact name="Unit">{facts.unit ?? <span className="text-signal">none</span>}</Fact>
          <Fact name="Size">
            {box(facts.size)}
            <span className="block text-[12px] text-ink-soft">{boxImperial(facts.size)}</span>
          </Fact>
          <Fact name="Parts, placements">{`${count(facts.parts)}, ${count(facts.placements)}`}</Fact>
          <Fact name="Layers, colours">{`${count(facts.layers)}, ${count(facts.colours)}`}</Fact>
          <Fact name="Bytes">{bytes(facts.bytes)}</Fact>
        </dl>
      )}
      {source.state === "ready" && !findings.length && <p className="pt-2 text-ink-soft">Nothing worth a remark.</p>}
      <ul className="pt-1">
        {findings.map((item) => (
          <FindingItem key={item.code + item.where} item={item} />
        ))}
      </ul>
    </div>
  );
}

const GRAVITY = { error: 0, warning: 1, note: 2 };

const MARK = { error: "bg-signal text-white", warning: "bg-signal-pale text-signal", note: "bg-cloth-deep text-ink" };

function FindingItem({ item }: { item: Finding }) {
  const bench = useBench();
  const parts = bench.structure?.parts;
  const here =
    parts && item.code !== "leftovers"
      ? parts.flatMap((part, index) => (mentions(item, part.ref, part) ? [index] : []))
      : [];
  return (
    <li className="border-t border-cloth-deep py-2">
      <p>
        <span className={`mr-1.5 rounded px-1.5 py-px text-[11.5px] font-semibold ${MARK[item.severity]}`}>
          {item.severity}
        </span>
        {item.message}
      </p>
      <p className="pt-0.5 text-[12.5px] text-ink-soft">
        {item.why} {item.remedy}
      </p>
      {here.length > 0 && (
        <Button quiet className="-ml-2" onClick={() => goTo(bench, here)}>
          Show {here.length === 1 ? "it" : `these ${here.length}`} on the stage
        </Button>
      )}
    </li>
  );
}

function mentions(
  item: Finding,
  ref: string,
  part: { name: string; layer: string | null; colour: string | null; faces: number },
): boolean {
  if (item.code === "unnamed") return !part.name.trim() && part.faces > 0;
  if (item.code === "no-material") return part.faces > 0 && !part.layer && !part.colour;
  return item.where === ref;
}
