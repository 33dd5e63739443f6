import { useState } from "react";

import type { Decisions, Result } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Button, OneOf, Fact, Select, Fold, Folded, Unfold } from "../../ui/controls";
import { LengthField, MoveField, NumberField } from "../../ui/fields";
import { box, boxImperial, metric } from "../../ui/format";

type FitNow = Decisions["fit"];
type SourceFit = NonNullable<FitNow["sources"]>[string];
type Fitted = Result["sources"][number];
const AS_IT_CAME: SourceFit = { unit: null, up: null, width: null, measured: "artwork", turn: 0, move: [0, 0, 0] };

/** Unit, up axis and place of every source, and the size that comes of them. */
export function Fit() {
  const { decisions, decide, result, job } = useBench();
  const { fit } = decisions;
  const set = (change: Partial<FitNow>, label: string) =>
    decide((now) => ({ ...now, fit: { ...now.fit, ...change } }), label);
  const far = Math.max(...(fit.datum ?? [0, 0, 0]).map(Math.abs)) > 0;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2.5 text-[13.5px]">
      {result?.sources.map((source) => (
        <SourceFitting
          key={source.ref}
          source={source}
          name={job.sources.find((item) => item.ref === source.ref)?.name ?? source.ref}
          alone={result.sources.length === 1}
        />
      ))}
      {result && (
        <div className="border-t border-dashed border-line pt-2">
          <dl>
            <Fact name="Overall size">
              <b className="font-semibold">{box(result.size)}</b>
              <span className="block text-[12px] text-ink-soft">{boxImperial(result.size)}</span>
            </Fact>
            {far && (
              <Fact name="Origin moved to">
                {fit.datum!.map((value) => metric(value)).join(", ")}
                <Button quiet className="!px-1" onClick={() => set({ datum: [0, 0, 0] }, "Origin as it came")}>
                  Put back
                </Button>
              </Fact>
            )}
          </dl>
          <p className="pt-1 text-[12.5px] text-ink-soft">
            The yardstick beside the model is a person of 1.75 m. Does the model look its size?
          </p>
        </div>
      )}
    </div>
  );
}

/** One source's unit, up axis, turn and place; what it has not of its own it has from the file. */
function SourceFitting({ source, name, alone }: { source: Fitted; name: string; alone: boolean }) {
  const { decisions, decide, library } = useBench();
  const [open, setOpen] = useState(alone);
  const own = { ...AS_IT_CAME, ...decisions.fit.sources?.[source.ref] };
  const unit = own.unit ?? decisions.fit.unit ?? null;
  const up = own.up ?? decisions.fit.up ?? null;
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
      alone ? label : `${name}: ${label}`,
    );
  const suffix = alone ? "the source" : name;
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
      <Folded className={`grid grid-cols-[minmax(0,1fr)] gap-2 ${alone ? "" : "pt-2"}`}>
        <label className="grid grid-cols-[76px_1fr] items-center gap-2.5">
          Unit
          <Select
            label={`Unit of ${suffix}`}
            value={unit ?? "declared"}
            onChange={(next) =>
              set(
                { unit: next === "declared" ? null : next },
                next === "declared" ? "unit as declared" : `unit ${next}`,
              )
            }
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
            ]}
          />
        </label>
        <div className="grid grid-cols-[76px_1fr] items-center gap-2.5">
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
        <label className="grid grid-cols-[76px_1fr] items-center gap-2.5">
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
        <div className="grid grid-cols-[76px_1fr] items-center gap-2.5">
          <span>Turned</span>
          <NumberField
            label={`Turn of ${suffix} about the up axis`}
            unit="°"
            value={own.turn ?? 0}
            least={-360}
            most={360}
            onSet={(turn) => set({ turn }, `turned ${turn}°`)}
          />
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
          </div>
        </div>
      </Folded>
    </Fold>
  );
}
