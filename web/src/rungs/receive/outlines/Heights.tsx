import { Fragment, useState } from "react";

import type { Outlines } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { OneOf, Select } from "../../../ui/controls";
import { Swatch } from "../../../ui/Swatch";
import { Chevron } from "../../../ui/Chevron";
import { LengthField } from "../../../ui/fields";
import { count, metric } from "../../../ui/format";
import { type Named, type Row, type Said, saidOf } from "./said";

type Shape = Outlines["shapes"][number];
interface Group extends Named {
  label: string;
  colours: string[];
  shapes: Shape[];
}

/** One row for all, one for each layer or colour: how high, how wide a wall; more of each folded below it. */
export function Heights({
  by,
  shapes,
  rows,
  onSay,
}: {
  by: "layer" | "colour";
  shapes: Shape[];
  rows: readonly Row[];
  onSay: (named: Named, change: Said, label: string) => void;
}) {
  const { job, structure } = useBench();
  const [open, setOpen] = useState<string | null>(null);
  const order = (group: Group) =>
    job.sources.findIndex((source) => source.ref === group.source) * 1e6 +
    ((by === "layer" ? structure?.layers : structure?.colours)?.indexOf(group.match) ?? 0);
  const groups = grouped(by, shapes).sort((one, other) => order(one) - order(other));
  const all: Group = { by: "all", match: "", source: null, label: "All outlines", colours: [], shapes };
  const several = job.sources.length > 1;
  return (
    <table className="w-full border-collapse text-[13px]">
      <thead className="sticky top-0 bg-paper">
        <tr className="border-b border-line text-[12px] text-ink-soft">
          <th className="py-1 text-left font-medium">{by === "layer" ? "Layer" : "Colour"}</th>
          <th className="w-16 text-right font-medium">Shapes</th>
          <th className="w-[100px] text-right font-medium">Height</th>
          <th className="w-[100px] text-right font-medium">Ring of wall</th>
        </tr>
      </thead>
      <tbody>
        {[all, ...groups].map((group) => {
          const key = `${group.by} ${group.source} ${group.match}`;
          const said = saidOf(rows, group);
          const above = group === all ? null : saidOf(rows, all);
          const unfolded = open === key;
          const waiting = group.shapes.filter((shape) => shape.role === "waiting").length;
          return (
            <Fragment key={key}>
              <tr className={unfolded ? "" : "border-b border-cloth-deep"}>
                <td className="max-w-0 py-1">
                  <button
                    type="button"
                    aria-expanded={unfolded}
                    onClick={() => setOpen(unfolded ? null : key)}
                    className="flex w-full items-center gap-1.5 rounded text-left"
                  >
                    <Chevron to={unfolded ? "down" : "right"} className="text-ink-soft" />
                    {group.colours.slice(0, 3).map((colour) => (
                      <Swatch key={colour} colour={colour} />
                    ))}
                    <span className={`truncate ${group === all ? "font-semibold" : ""}`} title={group.label}>
                      {group.label}
                    </span>
                    {several && group.source && (
                      <span className="truncate text-[11.5px] text-ink-soft">{group.source}</span>
                    )}
                  </button>
                </td>
                <td className="text-right whitespace-nowrap">
                  {count(group.shapes.length)}
                  {waiting > 0 && group !== all && (
                    <span className="text-signal" title={`${waiting} await a height`}>
                      {" "}
                      ({count(waiting)})
                    </span>
                  )}
                </td>
                <td className="pl-2">
                  <LengthField
                    label={`Height of ${group.label}`}
                    value={said.height ?? null}
                    empty={above?.height != null ? metric(above.height) : heightNow(group.shapes)}
                    className="w-full"
                    onSet={(height) =>
                      onSay(
                        group,
                        { height },
                        height === null ? `${group.label} as drawn` : `${group.label} ${metric(height)} high`,
                      )
                    }
                  />
                </td>
                <td className="pl-2">
                  <LengthField
                    label={`Wall around ${group.label}`}
                    value={said.wall ?? null}
                    empty={above?.wall ? metric(above.wall) : "none"}
                    className="w-full"
                    onSet={(wall) =>
                      onSay(
                        group,
                        { wall },
                        wall ? `${group.label}: a wall of ${metric(wall)}` : `${group.label}: no wall`,
                      )
                    }
                  />
                </td>
              </tr>
              {unfolded && (
                <tr className="border-b border-cloth-deep">
                  <td colSpan={4} className="pb-2 pl-4">
                    <More group={group} groups={groups} said={said} onSay={onSay} />
                  </td>
                </tr>
              )}
            </Fragment>
          );
        })}
      </tbody>
    </table>
  );
}

/** Which areas are solid, on which side a wall stands, what it stands on, and how wide lines are. */
function More({
  group,
  groups,
  said,
  onSay,
}: {
  group: Group;
  groups: Group[];
  said: Said;
  onSay: (named: Named, change: Said, label: string) => void;
}) {
  const others = groups.filter((item) => item !== group && item.source === group.source);
  const lines = group.shapes.some((shape) => shape.stroke > 0);
  return (
    <div className="grid grid-cols-[92px_1fr] items-center gap-x-3 gap-y-1.5">
      <span className="text-ink-soft">Solid areas</span>
      <OneOf
        label={`Solid areas of ${group.label}`}
        value={said.areas ?? "written"}
        options={[
          { value: "written", label: "As written" },
          { value: "united", label: "United" },
          { value: "alternating", label: "Alternating" },
        ]}
        onChange={(areas) => onSay(group, { areas }, `${group.label}: areas ${areas}`)}
      />
      {!!said.wall && (
        <>
          <span className="text-ink-soft">Wall stands</span>
          <OneOf
            label={`Side of the wall of ${group.label}`}
            value={said.side ?? "outward"}
            options={[
              { value: "outward", label: "Outside" },
              { value: "inward", label: "Inside" },
              { value: "both", label: "Astride" },
            ]}
            onChange={(side) => onSay(group, { side }, `${group.label}: wall ${side}`)}
          />
        </>
      )}
      {group.by !== "all" && others.length > 0 && (
        <>
          <span className="text-ink-soft">Stands on</span>
          <Select
            label={`What ${group.label} stands on`}
            value={said.on ? `${said.on.by} ${said.on.match}` : "ground"}
            options={[
              { value: "ground", label: "the ground" },
              ...others.map((item) => ({ value: `${item.by} ${item.match}`, label: `the top of ${item.label}` })),
            ]}
            onChange={(next) => {
              const on = others.find((item) => `${item.by} ${item.match}` === next);
              onSay(
                group,
                { on: on ? { by: on.by as "layer" | "colour", match: on.match } : null },
                `${group.label} on ${on ? on.label : "the ground"}`,
              );
            }}
          />
        </>
      )}
      {lines && (
        <>
          <span className="text-ink-soft">Lines are</span>
          <span className="flex items-center gap-2">
            <LengthField
              label={`Width of lines of ${group.label}`}
              value={said.stroke ?? null}
              empty="as drawn"
              className="w-[100px]"
              onSet={(stroke) =>
                onSay(
                  group,
                  { stroke },
                  stroke ? `${group.label}: lines ${metric(stroke)} wide` : `${group.label}: lines as drawn`,
                )
              }
            />
            <span className="text-ink-soft">wide</span>
          </span>
        </>
      )}
    </div>
  );
}

function grouped(by: "layer" | "colour", shapes: Shape[]): Group[] {
  const found = new Map<string, Group>();
  for (const shape of shapes) {
    const match = by === "layer" ? shape.layer : shape.colour;
    if (match == null) continue;
    const key = `${shape.source} ${match}`;
    let group = found.get(key);
    if (!group) {
      group = { by, match, source: shape.source, label: match, colours: [], shapes: [] };
      found.set(key, group);
    }
    group.shapes.push(shape);
    if (shape.colour && !group.colours.includes(shape.colour)) group.colours.push(shape.colour);
  }
  return [...found.values()];
}

/** What stands in an empty field: how high they are as drawn, that they are flat, or that nothing is there yet. */
function heightNow(shapes: Shape[]): string {
  if (shapes.every((shape) => shape.role === "line")) return "a line";
  if (shapes.every((shape) => shape.role === "line" || shape.role === "waiting")) return "none yet";
  const bodies = shapes.filter((shape) => shape.role === "solid");
  const heights = new Set(bodies.map((shape) => (shape.height ? metric(shape.height) : "flat")));
  return heights.size === 1 ? [...heights][0]! : heights.size ? "various" : "hole";
}
