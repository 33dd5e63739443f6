import { Popover } from "radix-ui";
import { useRef, useState } from "react";

import { Button, Select, Switch } from "../../../ui/controls";
import { bytes, count } from "../../../ui/format";
import { type Filled, type Picture, type Row, small, type useWear } from "./useMaps";

const CHANNELS = [
  { value: "rgb", label: "all" },
  { value: "r", label: "red" },
  { value: "g", label: "green" },
  { value: "b", label: "blue" },
  { value: "a", label: "opacity" },
];
const FRAME = {
  worn: "border-line bg-white",
  guessed: "border-dashed border-rope bg-white",
  missing: "border-signal bg-signal-pale",
  empty: "border-dashed border-line bg-transparent",
};
/** Slots that take one number of a picture. */
const ONE = new Set(["opacity", "roughness", "metalness", "occlusion", "transmission", "height"]);

/** A slot of a material: what is in it, and everything that can be done about it. Takes a dropped picture. */
export function SlotCell({
  row,
  slot,
  pictures,
  wear: { offer, give },
}: {
  row: Row;
  slot: Filled;
  pictures: Picture[];
  wear: ReturnType<typeof useWear>;
}) {
  const [over, setOver] = useState(false);
  const { picture } = slot;
  const name = `${slot.slot} of ${row.name}`;
  const pixels = picture ? `${count(picture.width)} × ${count(picture.height)}` : "";
  const says = {
    missing: `missing: ${slot.missing}`,
    empty: "none",
    guessed: `guess: ${picture?.name}, ${pixels} pixels`,
    worn: `${pixels} pixels: ${picture?.name}`,
  }[slot.state];
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`${name}, ${says}`}
        title={says}
        onDragOver={(event) => {
          if (!event.dataTransfer.types.includes("Files")) return;
          event.preventDefault();
          event.stopPropagation();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          event.stopPropagation();
          setOver(false);
          void give([...event.dataTransfer.files].slice(0, 1), row.material, slot.slot);
        }}
        className={`relative grid h-[74px] w-full place-items-center overflow-hidden rounded-md border-2 text-[12px] ${over ? "border-sea bg-sea-pale" : FRAME[slot.state]}`}
      >
        {picture ? (
          <img
            src={small(picture)}
            alt=""
            loading="lazy"
            className={`checker size-full object-cover ${slot.state === "guessed" ? "opacity-55" : ""} ${slot.inverted ? "invert" : ""}`}
          />
        ) : slot.state === "missing" ? (
          <b className="font-semibold text-signal">missing</b>
        ) : (
          <span className="text-ink-soft">none</span>
        )}
        {slot.state === "guessed" && (
          <span className="absolute inset-x-0 bottom-0 bg-paper/90 text-[11.5px] font-semibold text-rope">guess</span>
        )}
        {slot.state === "worn" && picture && (
          <span className="absolute inset-x-0 bottom-0 bg-paper/90 text-[11.5px] text-ink">
            {pixels}
            {slot.remarks.some((remark) => remark !== "not square") && (
              <b aria-hidden className="text-signal">
                {" "}
                !
              </b>
            )}
          </span>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          collisionPadding={8}
          aria-label={name}
          className="z-50 grid w-80 gap-2 rounded-md border border-line bg-paper p-3 text-[13.5px] shadow-lg"
        >
          <p className="font-semibold">
            {slot.slot[0]!.toUpperCase() + slot.slot.slice(1)} of {row.name}
          </p>
          {picture && <Facts picture={picture} slot={slot} row={row} />}
          {slot.state === "missing" && (
            <p className="text-signal">The file names “{slot.missing}”, which is not there.</p>
          )}
          {slot.state === "guessed" && picture && (
            <Button onClick={() => offer(`${picture.name} as ${slot.slot}`, "wear", worn(row, slot, picture.sha256))}>
              Take this guess
            </Button>
          )}
          {slot.state === "worn" && picture && ONE.has(slot.slot) && (
            <div className="flex items-center gap-3">
              <Select
                label={`Channel of ${name}`}
                className="flex-1"
                value={slot.channel ?? "rgb"}
                options={CHANNELS}
                onChange={(channel) =>
                  offer(`Channel of ${slot.slot}`, "wear", {
                    ...worn(row, slot, picture.sha256),
                    channel,
                  })
                }
              />
              <label className="flex items-center gap-2">
                Inverted
                <Switch
                  label={`${name} inverted`}
                  on={slot.inverted}
                  onChange={(inverted) =>
                    offer(inverted ? `${slot.slot} inverted` : `${slot.slot} as it is`, "wear", {
                      ...worn(row, slot, picture.sha256),
                      inverted,
                    })
                  }
                />
              </label>
            </div>
          )}
          <Select
            label={`Picture for ${name}`}
            empty="Another picture of the job…"
            value=""
            options={pictures
              .filter((item) => item.sha256 !== picture?.sha256)
              .map((item) => ({ value: item.sha256, label: `${item.name}, ${item.width} × ${item.height}` }))}
            onChange={(sha256) =>
              offer(`Picture as ${slot.slot}`, "wear", { material: row.material, slot: slot.slot, picture: sha256 })
            }
          />
          <div className="flex flex-wrap items-center gap-2">
            <PictureFile
              label={`Picture file for ${name}`}
              onFile={(file) => void give([file], row.material, slot.slot)}
            />
            {slot.state === "worn" && (
              <Button
                quiet
                onClick={() =>
                  offer(`No ${slot.slot} map`, "wear", { material: row.material, slot: slot.slot, to: "" })
                }
              >
                Take it off
              </Button>
            )}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const worn = (row: Row, slot: Filled, picture: string) => ({
  material: row.material,
  slot: slot.slot,
  picture,
  channel: slot.channel ?? "rgb",
  inverted: slot.inverted,
});

/** A button that takes one picture from the disk. */
function PictureFile({ label, onFile }: { label: string; onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept="image/*,.tga,.dds"
        tabIndex={-1}
        aria-label={label}
        className="sr-only"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) onFile(file);
          event.target.value = "";
        }}
      />
      <Button onClick={() => input.current?.click()}>From a file…</Button>
    </>
  );
}

function Facts({ picture, slot, row }: { picture: Picture; slot: Filled; row: Row }) {
  return (
    <div className="grid grid-cols-[96px_minmax(0,1fr)] gap-3">
      <img src={small(picture)} alt="" className="checker w-24 rounded border border-line" />
      <div className="text-[12.5px]">
        <p className="break-words">{picture.name}</p>
        <p className="text-ink-soft">
          {count(picture.width)} × {count(picture.height)} pixels, {bytes(picture.bytes)}
        </p>
        {slot.slot === "base colour" && row.pixels_per_metre > 0 && (
          <p className="text-ink-soft">{count(Math.round(row.pixels_per_metre))} pixels a metre</p>
        )}
        {slot.remarks.map((remark) => (
          <p key={remark} className="text-signal">
            {remark}
          </p>
        ))}
        <a href={`/api/textures/${picture.sha256}`} download={picture.name} className="underline">
          Save the picture
        </a>
      </div>
    </div>
  );
}
