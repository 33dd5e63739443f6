import { useState } from "react";

import { api, need, needJob, type Views } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Fold, Folded, OneOf, Unfold } from "../../ui/controls";
import { NumberField } from "../../ui/fields";
import { bytes, count, pixels, plural } from "../../ui/format";
import { type Seen, SeenFrom } from "./SeenFrom";
import { Worked } from "./Worked";
import { useWorked } from "./worked";

type Asked = Views["SpreadIn"];
type Told = Views["SpreadView"];
type By = "count" | "bytes";

/** Parts that are told one by one. */
const TOLD = 6;
const ask = async (job: number, asked: Asked) =>
  need(await api.POST("/api/jobs/{job_id}/facet/allowance", { params: { path: { job_id: job } }, body: asked }));
const said = (by: By, value: number) => (by === "bytes" ? bytes(value) : plural(Math.round(value), "triangle"));

/** A number of triangles, or a file size, spread over all parts so that the largest error is smallest. */
export function Allowance() {
  const { job, decisions, result, change } = useBench();
  const kept = decisions.facet.allowance;
  const [open, setOpen] = useState(false);
  const [by, setBy] = useState<By>(kept?.by ?? "count");
  const [value, setValue] = useState<number | null>(kept?.value ?? null);
  const [weighed, setWeighed] = useState<"size" | "seen">("size");
  const [seen, setSeen] = useState<Seen>(decisions.facet.seen);
  const { answer, error, asked, start, stop } = useWorked("facet allowance", ask);
  const many = result?.lookouts.length ?? 0;
  const triangles = result?.triangles ?? 0;
  const shown = value ?? (by === "bytes" ? (result?.glb_bytes ?? 0) : triangles);
  const wanted: Asked = { allowance: { by, value: shown }, seen: weighed === "seen" ? seen : null };
  return (
    <Fold open={open} onOpen={setOpen}>
      <Unfold open={open} name="Within an allowance">
        {kept ? `met: ${said(kept.by, kept.value)}` : "none"}
      </Unfold>
      <Folded className="grid grid-cols-[minmax(0,1fr)] gap-2 py-1.5">
        <div className="grid grid-cols-[minmax(0,1fr)_150px] items-center gap-2.5">
          <OneOf
            label="Allowance of"
            value={by}
            options={[
              { value: "count", label: "triangles" },
              { value: "bytes", label: "file size" },
            ]}
            onChange={(next) => {
              stop();
              setBy(next);
              setValue(null);
            }}
          />
          <NumberField
            label="Allowance"
            unit={by === "bytes" ? "MB" : "triangles"}
            value={by === "bytes" ? shown / 1e6 : shown}
            least={by === "bytes" ? 0.001 : 1}
            most={1e12}
            onSet={(next) => {
              stop();
              setValue(by === "bytes" ? next * 1e6 : Math.round(next));
            }}
          />
        </div>
        {many > 0 && (
          <OneOf
            label="Errors are weighed by"
            value={weighed}
            options={[
              { value: "size", label: "share of each part's size" },
              { value: "seen", label: "pixels in lookouts" },
            ]}
            onChange={(next) => {
              stop();
              setWeighed(next);
            }}
          />
        )}
        {weighed === "seen" && many > 0 && (
          <SeenFrom
            seen={seen}
            strict={false}
            onChange={(next) => {
              stop();
              setSeen(next);
            }}
          />
        )}
        <Worked
          answer={answer}
          error={error}
          asked={asked !== null}
          start="Spread it over the parts"
          use="Use these"
          onStart={() => start(wanted)}
          onStop={stop}
          onUse={() => {
            const given = asked ?? wanted;
            stop();
            change(async () =>
              needJob(
                await api.POST("/api/jobs/{job_id}/facet/allowance/use", {
                  params: { path: { job_id: job.id } },
                  body: given,
                }),
              ),
            );
          }}
        >
          {answer && <Found answer={answer} by={by} />}
        </Worked>
      </Folded>
    </Fold>
  );
}

function Found({ answer, by }: { answer: Told; by: By }) {
  const { structure } = useBench();
  const error = (value: number) =>
    answer.in_pixels ? pixels(value) : `${Number((100 * value).toPrecision(2))} % of a part's size`;
  const parts = answer.parts ?? [];
  return (
    <div className="grid gap-1 text-[12.5px]">
      <p>
        <b className="font-semibold">{said(by, answer.total ?? 0)}</b> of {said(by, answer.allowed ?? 0)}
        {by === "bytes" && <> ({plural(answer.triangles ?? 0, "triangle")})</>}; no part is off by more than{" "}
        <b className="font-semibold">{error(answer.error ?? 0)}</b>.{" "}
        {(answer.more ?? 0) < 0.995 * (answer.error ?? 0)
          ? `A tenth more would bring that to ${error(answer.more ?? 0)}.`
          : "A tenth more would not bring that down."}
      </p>
      {(answer.fixed ?? 0) > 0 && (
        <p className="text-ink-soft">
          {said(by, answer.fixed!)} are fixed: they came as triangles, or stay by decision.
        </p>
      )}
      {parts.length > 0 && (
        <table className="w-full tabular-nums">
          <thead>
            <tr className="text-left text-ink-soft">
              <th className="font-medium">{plural(answer.changed ?? 0, "part changes", "parts change")}</th>
              <th className="text-right font-medium">from</th>
              <th className="text-right font-medium">to</th>
            </tr>
          </thead>
          <tbody>
            {parts.slice(0, TOLD).map((row) => (
              <tr key={row.part}>
                <th scope="row" className="max-w-0 truncate text-left font-normal" style={{ width: "60%" }}>
                  {structure?.parts[row.part]?.label}
                </th>
                <td className="text-right">{count(row.triangles_now)}</td>
                <td className="text-right">{count(row.triangles)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
