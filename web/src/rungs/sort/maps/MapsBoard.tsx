import { useBench } from "../../../bench/bench";
import { Board } from "../../../bench/Board";
import { Button } from "../../../ui/controls";
import { bytes, count, metric, plural } from "../../../ui/format";
import { Swatch } from "../../../ui/Swatch";
import { SlotCell } from "./SlotCell";
import { type Orphan, type Picture, type Row, small, useMaps, useWear } from "./useMaps";

/** Slots that are shown whether or not anything is in them. */
const ALWAYS = new Set(["base colour", "opacity", "normal", "roughness", "metalness", "emission"]);

/** What every material in use wears: a row each, its slots side by side; below, pictures that nobody wears. */
export function MapsBoard({ onClose }: { onClose: () => void }) {
  const maps = useMaps();
  const wear = useWear();
  const { structure } = useBench();
  const { rows = [], orphans = [] } = maps.data ?? {};
  const used = new Set(
    rows.flatMap((row) => row.slots.filter((slot) => slot.state !== "empty").map(({ slot }) => slot)),
  );
  const slots = (maps.data?.slots ?? []).filter((slot) => ALWAYS.has(slot) || used.has(slot));
  const pictures = [
    ...new Map(
      [
        ...rows.flatMap((row) => row.slots.flatMap(({ picture }) => picture ?? [])),
        ...orphans.map((one) => one.picture),
      ].map((picture): [string, Picture] => [picture.sha256, picture]),
    ).values(),
  ];
  const guessed = rows.filter((row) => row.slots.some((slot) => slot.state === "guessed"));
  const missing = rows.flatMap((row) => row.slots.filter((slot) => slot.state === "missing"));
  return (
    <Board
      title="Maps"
      description={
        maps.data ? (
          <>
            {plural(maps.data.pictures, "picture")} worn, {bytes(maps.data.bytes)}; {bytes(maps.data.unpacked)} on a
            graphics card.
            {missing.length > 0 && (
              <b className="font-semibold text-signal"> {plural(missing.length, "map")} missing.</b>
            )}
          </>
        ) : (
          "Looking through the materials…"
        )
      }
      onClose={onClose}
    >
      <div className="col-span-2 grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto]">
        <div className="flex min-h-11 flex-wrap items-center gap-3 px-4 py-2 text-[13px]">
          {guessed.length > 0 ? (
            <>
              <Button
                onClick={() =>
                  wear.offer("Guessed maps taken", "take-maps", { materials: guessed.map((row) => row.material) })
                }
              >
                Take all guesses
              </Button>
              <span className="text-ink-soft">Guessed from file names; a click on a slot takes or changes one.</span>
            </>
          ) : (
            <span className="text-ink-soft">
              A click on a slot shows and changes what is in it; a picture can be dropped there.
            </span>
          )}
          {(wear.problem ?? (maps.isError && maps.error.message)) && (
            <span role="alert" className="text-signal">
              {wear.problem ?? (maps.isError && maps.error.message)}
            </span>
          )}
        </div>
        <div className="min-h-0 overflow-auto px-4 pb-3">
          <table className="w-full table-fixed border-separate border-spacing-x-1.5 border-spacing-y-1 text-[13px]">
            <thead className="sticky top-0 z-10 bg-paper text-[12px] text-ink-soft">
              <tr>
                <th className="w-[168px] py-1 text-left font-medium">Material</th>
                {slots.map((slot) => (
                  <th key={slot} className="text-left font-medium first-letter:uppercase">
                    {slot}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.material}>
                  <MaterialCell row={row} />
                  {row.slots
                    .filter(({ slot }) => slots.includes(slot))
                    .map((slot) => (
                      <td key={slot.slot}>
                        <SlotCell row={row} slot={slot} pictures={pictures} wear={wear} />
                      </td>
                    ))}
                </tr>
              ))}
            </tbody>
          </table>
          {maps.data && !rows.length && (
            <p className="py-3 text-ink-soft">
              {structure ? "Nothing that enters wears a material yet." : "No source is read yet."}
            </p>
          )}
        </div>
        {orphans.length > 0 && <Orphans orphans={orphans} wear={wear} />}
      </div>
    </Board>
  );
}

/** The material's name, and how its picture lies on what wears it. */
function MaterialCell({ row }: { row: Row }) {
  return (
    <th scope="row" className="max-w-0 pr-1 text-left align-top font-normal">
      <span className="flex items-center gap-1.5 pt-1">
        <Swatch colour={row.colour} />
        <span className="truncate font-semibold" title={row.name}>
          {row.name}
        </span>
      </span>
      <span className="block text-[12px] text-ink-soft">
        {plural(row.placements, "placement")}
        {row.tile > 0 ? (
          <>
            <br />
            tile {metric(row.tile)}
            {row.pixels_per_metre > 0 && <>, {count(Math.round(row.pixels_per_metre))} px/m</>}
          </>
        ) : (
          <>
            <br />
            no UV
          </>
        )}
      </span>
    </th>
  );
}

/** Pictures that nobody wears, and where each would fit. */
function Orphans({ orphans, wear }: { orphans: Orphan[]; wear: ReturnType<typeof useWear> }) {
  return (
    <section
      aria-label="Pictures that nobody wears"
      className="max-h-52 overflow-y-auto border-t border-line px-4 py-2.5"
    >
      <h3 className="font-name pb-1.5 text-[14px] font-semibold">
        {plural(orphans.length, "picture")} that nobody wears
      </h3>
      <ul className="grid grid-cols-2 gap-2">
        {orphans.map(({ picture, fits }) => (
          <li
            key={picture.sha256}
            className="flex gap-2.5 rounded border border-cloth-deep bg-white p-1.5 text-[12.5px]"
          >
            <img src={small(picture)} alt="" loading="lazy" className="checker size-14 rounded object-cover" />
            <div className="min-w-0 flex-1">
              <p className="truncate" title={picture.name}>
                {picture.name}
              </p>
              <p className="text-ink-soft">
                {count(picture.width)} × {count(picture.height)}, {bytes(picture.bytes)}
              </p>
              {fits.slice(0, 2).map((fit) => (
                <Button
                  key={`${fit.material} ${fit.slot}`}
                  quiet
                  className="!px-0 !py-0 text-[12.5px]"
                  onClick={() =>
                    wear.offer(`${picture.name} as ${fit.slot}`, "wear", {
                      material: fit.material,
                      slot: fit.slot,
                      picture: picture.sha256,
                      channel: fit.channel,
                      inverted: fit.inverted,
                    })
                  }
                >
                  {fit.slot} of {fit.name}
                </Button>
              ))}
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}
