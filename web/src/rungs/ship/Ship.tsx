import { Instances, Naming } from "./Limits";
import type { SetTarget, Target } from "./target";
import { api, type Delivery, need, needJob } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Link } from "../../ui/address";
import { type JoinBy, JOINS } from "../sort/order/Joins";
import { Button, Named, OneOf, Progress, Select } from "../../ui/controls";
import { bytes } from "../../ui/format";

const STAGES: Record<string, string> = {
  meshing: "Gathering meshes",
  writing: "Writing files",
  checking: "Reading back and checking",
  storing: "Putting away",
};

/** Where the mesh goes and how, and what came of the last deliveries. */
export function Ship() {
  const { decisions, decide, result, job, ship, library } = useBench();
  const { target } = decisions.ship;
  const custom = library.formats.find((item) => item.code === target.format)!;
  const set: SetTarget = (change, label) =>
    decide((now) => ({ ...now, ship: { ...now.ship, target: { ...now.ship.target, ...change } } }), label);
  const busy = job.deliveries.some((item) => item.state === "waiting" || item.state === "writing");
  const others = ["full", ...(decisions.trim.levels ?? []).map(({ name }) => name ?? "light")].filter(
    (name) => name !== (target.level ?? "full"),
  );
  const loose = result?.loose_parts.length ?? 0;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2.5 text-[13.5px]">
      <OneOf
        label="Format"
        value={target.format}
        options={library.formats.map((item) => ({ value: item.code as Target["format"], label: item.name }))}
        onChange={(format) =>
          set(
            { format, unit: null, up: null, hand: null, group: null, textures: null, polygons: false, quads: false },
            `Target ${format.toUpperCase()}`,
          )
        }
      />
      <Named name="Unit">
        <Select
          label="Unit of the target"
          value={target.unit ?? "custom"}
          onChange={(unit) => set({ unit: unit === "custom" ? null : unit }, "Unit of the target")}
          options={[
            { value: "custom", label: `default: ${custom.unit}` },
            ...library.units.filter(({ target: usual }) => usual).map(({ code }) => ({ value: code, label: code })),
          ]}
        />
      </Named>
      <Named name="Up axis">
        <Select
          label="Up axis of the target"
          value={target.up ?? "custom"}
          onChange={(up) => set({ up: up === "custom" ? null : (up as Target["up"]) }, "Up axis of the target")}
          options={[
            { value: "custom", label: `default: ${custom.up.toUpperCase()}` },
            ...library.axes.map((value) => ({ value, label: `${value.toUpperCase()} is up` })),
          ]}
        />
      </Named>
      {!custom.right_handed && (
        <Named name="Axes">
          <Select
            label="Handedness of the target"
            value={target.hand ?? "right"}
            onChange={(hand) => set({ hand: hand === "right" ? null : "left" }, `${hand}-handed target`)}
            options={[
              { value: "right", label: "right-handed" },
              { value: "left", label: "left-handed: mirrored, outside kept out" },
            ]}
          />
        </Named>
      )}
      <Named name="One mesh for">
        <Select
          label="Meshes"
          value={target.group ?? custom.group}
          options={(Object.keys(JOINS) as JoinBy[]).map((value) => ({ value, label: JOINS[value] }))}
          onChange={(group) => set({ group: group as JoinBy }, "Meshes of the target")}
        />
      </Named>
      {custom.carries.includes("instances") && (target.group ?? custom.group) === "part" && <Instances set={set} />}
      <Naming set={set} />
      <label className="flex items-center gap-2 text-[13px]">
        <input
          type="checkbox"
          checked={target.flat_colours ?? false}
          onChange={(event) => set({ flat_colours: event.target.checked }, "Flat colours")}
          className="size-4 accent-ink"
        />
        <span>
          Flat colours <span className="text-ink-soft">each material one that is easily told</span>
        </span>
      </label>
      {custom.carries.includes("polygons") ? (
        <>
          <label className="flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              checked={target.polygons ?? false}
              onChange={(event) => set({ polygons: event.target.checked }, "Polygons of the target")}
              className="size-4 accent-ink"
            />
            <span>
              Polygons <span className="text-ink-soft">flat faces, as few as are convex</span>
            </span>
          </label>
          <label className="flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              checked={target.quads ?? false}
              onChange={(event) => set({ quads: event.target.checked }, "Quads of the target")}
              className="size-4 accent-ink"
            />
            <span>
              Quads <span className="text-ink-soft">two triangles that make a good one</span>
            </span>
          </label>
        </>
      ) : (
        <p className="text-[12.5px] text-ink-soft">{custom.name} holds triangles only.</p>
      )}
      {custom.carries.includes("pictures") && result?.materials.some((item) => Object.keys(item.own.maps).length) && (
        <>
          <Named name="Pictures">
            <Select
              label="Where pictures go"
              value={target.textures ?? "custom"}
              onChange={(where) =>
                set({ textures: where === "custom" ? null : (where as Target["textures"]) }, "Where pictures go")
              }
              options={[
                { value: "custom", label: `default: ${custom.inside ? "inside" : "beside"}` },
                ...(custom.inside === null ? [] : [{ value: "inside", label: "inside the file" }]),
                { value: "beside", label: "beside the file" },
                { value: "none", label: "none" },
              ]}
            />
          </Named>
          <Named name="No larger">
            <Select
              label="Largest side of a picture"
              value={String(target.texture_limit ?? "whole")}
              onChange={(side) => set({ texture_limit: side === "whole" ? null : Number(side) }, "Size of pictures")}
              options={[
                { value: "whole", label: "than they are" },
                ...[512, 1024, 2048, 4096].map((side) => ({ value: String(side), label: `than ${side} px` })),
              ]}
            />
          </Named>
        </>
      )}
      {(decisions.trim?.levels?.length ?? 0) > 0 && (
        <OneOf
          label="Level of detail"
          value={target.level ?? "full"}
          options={["full", ...decisions.trim!.levels!.map((level) => level.name ?? "light")].map((value) => ({
            value,
            label: `${value} level`,
          }))}
          onChange={(level) =>
            decide(
              (now) => ({
                ...now,
                ship: {
                  ...now.ship,
                  target: { ...now.ship.target, level },
                  beside: now.ship.beside === level ? null : now.ship.beside,
                },
              }),
              `Ship the ${level} level`,
            )
          }
        />
      )}
      {others.length > 0 && (
        <Named name="Beside it">
          <Select
            label="Level that ships beside it"
            value={decisions.ship.beside ?? "none"}
            onChange={(level) =>
              decide(
                (now) => ({ ...now, ship: { ...now.ship, beside: level === "none" ? null : level } }),
                "Level that ships beside it",
              )
            }
            options={[
              { value: "none", label: "nothing" },
              ...others.map((name) => ({ value: name, label: `the ${name} level, a delivery of its own` })),
            ]}
          />
        </Named>
      )}
      {loose > 0 && (
        <p className="text-signal">
          {loose === 1 ? "One loose end ships" : `${loose} loose ends ship`} in the undecided grey.
        </p>
      )}
      <Button main className="py-1.5" disabled={!result || busy} onClick={ship}>
        {busy ? "Shipping…" : `Ship as ${custom.name}`}
      </Button>
      <ul>
        {job.deliveries.slice(0, 4).map((item) => (
          <DeliveryLine key={item.id} item={item} jobId={job.id} />
        ))}
      </ul>
    </div>
  );
}

function DeliveryLine({ item, jobId }: { item: Delivery; jobId: number }) {
  const { change } = useBench();
  const form = String(item.target.format).toUpperCase();
  const busy = item.state === "waiting" || item.state === "writing";
  return (
    <li className="grid gap-1 border-t border-cloth-deep py-1.5">
      <div className="flex items-baseline justify-between gap-2">
        <span>
          <b className="font-semibold">{form}</b>
          {item.target.level !== "full" && ` ${String(item.target.level)}`} <Verdict item={item} />
        </span>
        {busy ? (
          <Button
            quiet
            onClick={() =>
              change(async () => {
                const answer = await api.POST("/api/deliveries/{delivery_id}/cancel", {
                  params: { path: { delivery_id: item.id } },
                });
                if (!answer.response.ok) need(answer);
                return needJob(await api.GET("/api/jobs/{job_id}", { params: { path: { job_id: jobId } } }));
              })
            }
          >
            Stop
          </Button>
        ) : (
          item.receipt && (
            <span className="flex gap-3">
              <Link
                href={`/jobs/${jobId}/deliveries/${item.id}`}
                className="underline decoration-line underline-offset-4"
              >
                Receipt
              </Link>
              <a
                href={`/api/deliveries/${item.id}/bundle`}
                download
                className="underline decoration-line underline-offset-4"
              >
                ZIP {bytes(item.bundle_bytes)}
              </a>
            </span>
          )
        )}
      </div>
      {busy && <Progress share={item.state === "waiting" ? null : item.share} label="Shipping" />}
      {item.message && (
        <p role="alert" className="text-signal">
          {item.message}
        </p>
      )}
    </li>
  );
}

/** In a few words, how a delivery stands. */
export function Verdict({ item }: { item: Delivery }) {
  if (item.state === "waiting" || item.state === "writing")
    return <span className="text-ink-soft">{STAGES[item.stage] ?? "Waiting"}…</span>;
  if (item.state === "cancelled") return <span className="text-ink-soft">stopped</span>;
  if (item.state === "failed") return <span className="font-semibold text-signal">not written</span>;
  if (!item.receipt?.ok) return <span className="font-semibold text-signal">receipt failed</span>;
  return (
    <span className="font-semibold text-sea">
      receipt in order{item.stale && <span className="font-normal text-ink-soft">, changed since</span>}
    </span>
  );
}
