import type { Outlines } from "../../../api/client";
import { OneOf, Select } from "../../../ui/controls";
import { LengthField } from "../../../ui/fields";
import { count, metric } from "../../../ui/format";
import { type Drawn, type Footing, type Named, namedOf, type Said, saidOf } from "./said";

type Shape = Outlines["shapes"][number];

const ROLES: Record<Shape["role"], string> = {
  solid: "solid",
  hole: "a hole in others",
  joined: "joined to another",
  line: "a line",
  waiting: "an outline that awaits a height",
};

/** The chosen shapes: what the first is, and what can be said of all of them. */
export function Chosen({
  shapes,
  all,
  drawn,
  onSay,
}: {
  shapes: Shape[];
  all: Shape[];
  drawn: Drawn;
  onSay: (named: Named[], change: Said, label: string) => void;
}) {
  const shape = shapes[0];
  if (!shape)
    return (
      <p className="min-h-[69px] border-t border-cloth-deep px-4 py-2.5 text-[12.5px] text-ink-soft">
        Filled is solid, hatched is a hole, dotted awaits a height. Click a shape to choose it, click it again to turn
        it from solid to hole and back. Drag moves the plan, the wheel comes closer.
      </p>
    );
  const own = saidOf(drawn.rows, namedOf(shape));
  const name = shapes.length > 1 ? `${count(shapes.length)} shapes` : shape.label;
  const tell = (change: Said, told: string) => onSay(shapes.map(namedOf), change, `${name} ${told}`);
  return (
    <div className="min-h-[69px] border-t border-cloth-deep px-4 py-2 text-[13px]">
      <p className="flex min-w-0 gap-x-2">
        <b className="truncate font-semibold" title={shape.label}>
          {name}
        </b>
        <span className="whitespace-nowrap text-ink-soft">
          {shapes.length > 1 ? `chosen; the first, ${shape.label}, is ` : ""}
          {ROLES[shape.role]}
          {shape.role === "solid" && (shape.height ? `, ${metric(shape.height)} high` : ", flat")}
          {!!shape.base && `, from ${metric(shape.base)} up`}
          {shape.gap != null && <span className="text-signal">, {metric(shape.gap)} open</span>}
        </span>
      </p>
      <div className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <label className="flex items-center gap-1.5 text-ink-soft">
          height
          <LengthField
            label={`Height of ${shape.label}`}
            value={own.height ?? null}
            empty="as its layer"
            className="w-[88px]"
            onSet={(height) => tell({ height }, height === null ? "as high as the layer" : `${metric(height)} high`)}
          />
        </label>
        <label className="flex items-center gap-1.5 text-ink-soft">
          wall
          <LengthField
            label={`Wall around ${shape.label}`}
            value={own.wall ?? null}
            empty="as its layer"
            className="w-[88px]"
            onSet={(wall) => tell({ wall }, wall ? `with a wall of ${metric(wall)}` : "with a wall as the layer")}
          />
        </label>
        <span className="flex min-w-0 items-center gap-1.5 text-ink-soft">
          on
          <StandsOn shape={shape} all={all} value={own.on ?? null} onSet={(on, told) => tell({ on }, told)} />
        </span>
        <OneOf
          label={`What ${shape.label} is`}
          value={own.hand ?? "rule"}
          options={[
            { value: "rule", label: "By the rule" },
            { value: "solid", label: "Solid" },
            { value: "hole", label: "Hole" },
          ]}
          onChange={(next) =>
            tell({ hand: next === "rule" ? null : next }, { rule: "by the rule", solid: "solid", hole: "a hole" }[next])
          }
        />
      </div>
    </div>
  );
}

const keyOf = (on: Footing) => `${on.by} ${on.match ?? ""}`;

/** The ground, the top of another layer, or of an outline around this one; else what its layer stands on. */
function StandsOn({
  shape,
  all,
  value,
  onSet,
}: {
  shape: Shape;
  all: Shape[];
  value: Footing | null;
  onSet: (on: Footing | null, told: string) => void;
}) {
  const layers = new Set(all.filter((other) => other.source === shape.source).map((other) => other.layer));
  layers.delete(shape.layer);
  const footings: Footing[] = [
    { by: "ground", match: "" },
    ...shape.inside.map((match): Footing => ({ by: "part", match })),
    ...[...layers]
      .filter((layer) => layer != null)
      .sort()
      .map((match): Footing => ({ by: "layer", match })),
  ];
  // Something said earlier stays in the list, also when it is neither around it nor a layer.
  if (value && !footings.some((on) => keyOf(on) === keyOf(value))) footings.push(value);
  const nameOf = (on: Footing) =>
    on.by === "part" ? (all.find((other) => other.ref === on.match)?.label ?? on.match) : on.match;
  const called = (on: Footing) => (on.by === "ground" ? "the ground" : `the top of ${nameOf(on)}`);
  return (
    <Select
      label={`What ${shape.label} stands on`}
      value={value ? keyOf(value) : "as its layer"}
      className="max-w-[190px]"
      options={[
        { value: "as its layer", label: "as its layer" },
        ...footings.map((on) => ({ value: keyOf(on), label: called(on) })),
      ]}
      onChange={(next) => {
        const on = footings.find((item) => keyOf(item) === next) ?? null;
        onSet(on, on ? `on ${called(on)}` : "on what the layer stands on");
      }}
    />
  );
}
