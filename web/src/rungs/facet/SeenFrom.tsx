import type { Views } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Select } from "../../ui/controls";
import { NumberField } from "../../ui/fields";

export type Seen = Views["SeenFrom"];
const EVERY = "every lookout";

/** From which lookouts, and in how wide a picture. */
export function SeenFrom({
  seen,
  onChange,
  strict = true,
}: {
  seen: Seen;
  onChange: (next: Seen) => void;
  /** Whether it is asked how far off an outline may be. */
  strict?: boolean;
}) {
  const { result } = useBench();
  const names = result?.lookouts.map(({ name }) => name) ?? [];
  return (
    <>
      <div className="grid grid-cols-[84px_minmax(0,1fr)_84px] items-center gap-2.5 text-[13px]">
        <span>Seen from</span>
        <Select
          label="Lookouts that facets are for"
          value={seen.lookouts?.length === 1 ? seen.lookouts[0]! : EVERY}
          options={[EVERY, ...names].map((value) => ({ value, label: value }))}
          onChange={(name) => onChange({ ...seen, lookouts: name === EVERY ? [] : [name] })}
        />
        <NumberField
          label="Width of the picture that facets are for"
          unit="px"
          value={seen.width ?? 1920}
          least={16}
          most={65536}
          onSet={(width) => onChange({ ...seen, width: Math.round(width) })}
        />
      </div>
      <div className="grid grid-cols-[84px_minmax(0,1fr)_84px] items-center gap-2.5 text-[13px]">
        {strict ? <span>Outline off</span> : <span />}
        <label className="flex items-center gap-1.5 text-[12.5px]">
          <input
            type="checkbox"
            checked={!!seen.path}
            onChange={(event) => onChange({ ...seen, path: event.target.checked })}
            className="size-4 accent-ink"
          />
          and between them
        </label>
        {strict && (
          <NumberField
            label="How far an outline may be off"
            unit="px"
            value={seen.pixels ?? 0.5}
            least={0.01}
            most={100}
            onSet={(pixels) => onChange({ ...seen, pixels })}
          />
        )}
      </div>
    </>
  );
}
