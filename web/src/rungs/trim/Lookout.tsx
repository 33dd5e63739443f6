import { useBench } from "../../bench/bench";
import { Select } from "../../ui/controls";
import { NumberField } from "../../ui/fields";
import { metric, pixels as said, plural } from "../../ui/format";

/** From where deviations are told in pixels, and the largest of them. */
export function Lookout() {
  const { decisions, decide, result } = useBench();
  const { view } = decisions.trim;
  if (!result) return null;
  const set = (change: Partial<typeof view>, label: string) =>
    decide((now) => ({ ...now, trim: { ...now.trim, view: { ...now.trim.view, ...change } } }), label);
  const { deviation, pixels, worst, joined } = result.trim;
  return (
    <section
      aria-label="Seen from"
      className="grid grid-cols-[84px_minmax(0,1fr)_80px] items-center gap-x-2.5 gap-y-1 border-t border-dashed border-line pt-2"
    >
      <span>Seen from</span>
      <Select
        label="Lookout for deviations"
        value={view.lookout || "none"}
        options={[
          { value: "none", label: result.lookouts.length ? "nowhere" : "no lookout" },
          ...result.lookouts.map(({ name }) => ({ value: name, label: name })),
        ]}
        onChange={(name) => set({ lookout: name === "none" ? "" : name }, "Lookout for deviations")}
      />
      <NumberField
        label="Width of the picture"
        unit="px"
        value={view.width}
        least={16}
        most={65536}
        onSet={(width) => set({ width: Math.round(width) }, "Width of the picture")}
      />
      {worst !== null && worst !== undefined && (
        <p className="col-span-3 text-[12.5px] text-ink-soft">
          Largest deviation <b className="font-semibold text-ink">{metric(deviation ?? 0)}</b>
          {pixels != null && (
            <>
              {" "}
              or <b className="font-semibold text-ink">{said(pixels)}</b> there
            </>
          )}
          , measured both ways.
        </p>
      )}
      {!!joined && (
        <p className="col-span-3 text-[12.5px] text-ink-soft">
          {plural(joined, "vertex", "vertices")} of loose triangles were joined first.
        </p>
      )}
      <span title="of volume or outline">Shape lost</span>
      <span className="text-[12.5px] text-ink-soft">past a change of</span>
      <NumberField
        label="Change of shape that is too much"
        unit="%"
        value={100 * decisions.trim.lost}
        least={0.1}
        most={100}
        onSet={(share) =>
          decide((now) => ({ ...now, trim: { ...now.trim, lost: share / 100 } }), "Change of shape that is too much")
        }
      />
    </section>
  );
}
