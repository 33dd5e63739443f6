import { useState } from "react";

import type { Decisions, Result, Views } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Button, Fold, Folded, OneOf, Select, Switch, Unfold } from "../../ui/controls";
import { LengthField, MoveField, NumberField } from "../../ui/fields";
import { metric } from "../../ui/format";

export type SourceFit = NonNullable<Decisions["fit"]["sources"]>[string];
type Fitted = Result["sources"][number];
const AS_IT_CAME: SourceFit = {
  unit: null,
  up: null,
  each: null,
  width: null,
  measured: "artwork",
  mirrored: false,
  tip: [0, 0],
  turn: 0,
  move: [0, 0, 0],
};
const CUSTOM = "custom";
/** Findings that are settled here; a unit that is missing has a list of its own. */
const ABOUT = new Set(["unit-doubtful", "lies-down", "far-from-origin"]);
const ROW = "grid grid-cols-[76px_1fr] items-center gap-2.5";

/** One source's size, up axis, turns and place; what it has not of its own it has from the file. */
export function SourceFitting({
  source,
  known,
  name,
  alone,
}: {
  source: Fitted;
  known: Views["SourceSizeView"] | undefined;
  name: string;
  alone: boolean;
}) {
  const { decisions, decide, library, fit, view, setView, job, take } = useBench();
  const doubts =
    job.sources
      .find((item) => item.ref === source.ref)
      ?.findings.filter((item) => ABOUT.has(item.code) && !item.settled) ?? [];
  const [open, setOpen] = useState(alone);
  const [custom, setCustom] = useState(false);
  const own = { ...AS_IT_CAME, ...decisions.fit.sources?.[source.ref] };
  const unit = own.unit ?? decisions.fit.unit ?? null;
  const up = own.up ?? decisions.fit.up ?? null;
  const said = (label: string) => (alone ? label : `${name}: ${label}`);
  const set = (change: Partial<SourceFit>, label: string) =>
    decide(
      (now) => ({
        ...now,
        fit: {
          ...now.fit,
          sources: {
            ...now.fit.sources,
            [source.ref]: { ...AS_IT_CAME, ...now.fit.sources?.[source.ref], ...change },
          },
        },
      }),
      said(label),
    );
  const suffix = alone ? "the source" : name;
  const isCustom = custom || own.each != null;
  const doubtful = known && !known.declared && !unit && own.each == null && own.width == null;
  return (
    <Fold
      role="group"
      aria-label={`Fit of ${name}`}
      open={open}
      onOpen={setOpen}
      className={alone ? "" : "rounded border border-cloth-deep bg-white px-2 py-1.5"}
    >
      {!alone && (
        <Unfold open={open} name={name}>
          {metric(Math.max(...source.size))}, {source.unit ?? "no unit"}, {source.up.toUpperCase()} up
        </Unfold>
      )}
      {doubts.map((item) => (
        <div
          key={item.code}
          role="note"
          className="my-1.5 grid grid-cols-[minmax(0,1fr)] gap-1 rounded bg-signal-pale px-2 py-1.5 text-[12.5px]"
        >
          <span>{item.message}</span>
          <span className="flex flex-wrap gap-1.5">
            {item.offers.map((offer) => (
              <Button key={offer.label} onClick={() => take(item, offer)}>
                {offer.label}
              </Button>
            ))}
          </span>
        </div>
      ))}
      {known?.stands_on_tip && (
        <div
          role="note"
          className="my-1.5 grid grid-cols-[minmax(0,1fr)] gap-1 rounded bg-signal-pale px-2 py-1.5 text-[12.5px]"
        >
          <span>It stands on an edge or a tip, and has a large flat side to lie on.</span>
          <span>
            <Button
              onClick={() =>
                fit(
                  { does: "lay", sources: [source.ref], way: known.down as [number, number, number] },
                  said("laid on its largest flat side"),
                )
              }
            >
              Lay it on that side
            </Button>
          </span>
        </div>
      )}
      <Folded className={`grid grid-cols-[minmax(0,1fr)] gap-2 ${alone ? "" : "pt-2"}`}>
        <div className={ROW}>
          <span>Unit</span>
          <Select
            label={`Unit of ${suffix}`}
            value={isCustom ? CUSTOM : (unit ?? "declared")}
            onChange={(next) => {
              setCustom(next === CUSTOM);
              if (next !== CUSTOM)
                set(
                  { unit: next === "declared" ? null : next, each: null },
                  next === "declared" ? "unit as declared" : `unit ${next}`,
                );
            }}
            options={[
              {
                value: "declared",
                label: source.declared_unit
                  ? `as declared: ${source.declared_unit}`
                  : source.sized
                    ? "as the file says its size"
                    : "none declared",
              },
              ...library.units.map(({ code, name: word }) => ({ value: code, label: `${word} (${code})` })),
              { value: CUSTOM, label: "another size of one coordinate…" },
            ]}
          />
        </div>
        {isCustom && (
          <div className={ROW}>
            <span>One is</span>
            <LengthField
              label={`Length of one coordinate of ${suffix}`}
              value={own.each ?? null}
              empty="a length"
              onSet={(each) => {
                setCustom(false);
                set({ each }, each === null ? "size by its unit" : `one coordinate is ${metric(each)}`);
              }}
            />
          </div>
        )}
        {known?.declared_in && (
          <p className="-mt-1 pl-[86px] text-[12px] text-ink-soft">
            {known.declared
              ? `Declared: ${known.declared}, in ${known.declared_in}.`
              : `Its size is in ${known.declared_in}.`}
          </p>
        )}
        {doubtful && (
          <div
            role="group"
            aria-label={`Likely units of ${suffix}`}
            className="grid grid-cols-[minmax(0,1fr)] gap-1 rounded bg-cloth p-2 text-[12.5px]"
          >
            <b className="font-semibold">Which unit? The likeliest first.</b>
            {known.likely.map((item) => (
              <div key={item.unit} className="flex items-baseline gap-2">
                <Button className="min-w-28 text-left" onClick={() => set({ unit: item.unit }, `unit ${item.unit}`)}>
                  {item.unit}: {metric(item.size)}
                </Button>
                <span className="min-w-0 flex-1 text-ink-soft">{item.reasons.join("; ")}</span>
              </div>
            ))}
          </div>
        )}
        <div className={ROW}>
          <span>Width</span>
          <span className="flex gap-1.5">
            <LengthField
              label={`Wanted width of ${suffix}`}
              value={own.width ?? null}
              empty="by its unit"
              className="w-0 grow"
              onSet={(width) => set({ width }, width === null ? "size by its unit" : `${metric(width)} wide`)}
            />
            {source.paged && (
              <OneOf
                label={`What is so wide of ${suffix}`}
                value={own.measured ?? "artwork"}
                options={[
                  { value: "artwork", label: "Artwork" },
                  { value: "page", label: "Page" },
                ]}
                onChange={(measured) => set({ measured }, `width is of the ${measured}`)}
              />
            )}
          </span>
        </div>
        <label className={ROW}>
          Up axis
          <Select
            label={`Up axis of ${suffix}`}
            value={up ?? "declared"}
            onChange={(next) =>
              set(
                { up: next === "declared" ? null : (next as SourceFit["up"]) },
                next === "declared" ? "up axis as declared" : `${next.toUpperCase()} is up`,
              )
            }
            options={[
              { value: "declared", label: "default: Z" },
              ...library.axes.map((axis) => ({ value: axis, label: `${axis.toUpperCase()} is up` })),
            ]}
          />
        </label>
        <div className={ROW}>
          <span>Left-handed</span>
          <span className="flex justify-end">
            <Switch
              label={`Axes of ${suffix} are left-handed`}
              on={own.mirrored}
              onChange={(mirrored) => set({ mirrored }, mirrored ? "axes are left-handed" : "axes are right-handed")}
            />
          </span>
        </div>
        <div className="grid grid-cols-[76px_1fr] gap-2.5">
          <span className="pt-0.5">Turned</span>
          <div className="grid gap-1">
            {(["X", "Y", "Z"] as const).map((axis, at) => (
              <NumberField
                key={axis}
                label={axis === "Z" ? `Turn of ${suffix} about the up axis` : `Turn of ${suffix} about ${axis}`}
                unit={`° ${axis}`}
                value={source.own_angles[at]!}
                least={-360}
                most={360}
                onSet={(degrees) => {
                  const all = [...source.own_angles] as [number, number, number];
                  all[at] = degrees;
                  fit({ does: "pose", sources: [source.ref], degrees: all }, said(`turned ${degrees}° about ${axis}`));
                }}
              />
            ))}
          </div>
        </div>
        <div className="grid grid-cols-[76px_1fr] gap-2.5">
          <span className="pt-0.5">Moved</span>
          <div className="grid gap-1">
            {(["X", "Y", "Z"] as const).map((axis, at) => (
              <MoveField
                key={axis}
                label={`Move of ${suffix} along ${axis}`}
                axis={axis}
                value={own.move?.[at] ?? 0}
                onSet={(value) => {
                  const move = [...(own.move ?? [0, 0, 0])] as [number, number, number];
                  move[at] = value;
                  set({ move }, `moved along ${axis}`);
                }}
              />
            ))}
            <Button
              on={view.handled === source.ref}
              onClick={() => setView({ handled: view.handled === source.ref ? null : source.ref })}
            >
              Handles on the stage
            </Button>
          </div>
        </div>
      </Folded>
    </Fold>
  );
}
