import { type ReactNode, useState } from "react";

import { api, type Material, need, needJob, type Own } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { parted } from "../../../stage/materials";
import { Button, OneOf, Select, Switch } from "../../../ui/controls";
import { LengthField } from "../../../ui/fields";
import { metric } from "../../../ui/format";
import { Slide } from "../../../ui/Slide";
import { type Row, small, useWear } from "../maps/useMaps";
import { Sample } from "./Sample";

const share = (value: number) => `${Math.round(value * 100)} %`;
const plain = (value: number) => value.toFixed(2);
const GRID = "grid-cols-[112px_1fr_56px]";

/** One material: how it looks, every number of it, and what can be done with it as a whole. */
export function Editor({ material, row, onShelf }: { material: Material; row?: Row; onShelf: () => void }) {
  const { job, result, decisions, change } = useBench();
  const { offer } = useWear();
  // What a slider of which material shows while it moves; the decision follows when it is let go.
  const [draft, setDraft] = useState<{ of: string; own: Partial<Own> }>({ of: material.id, own: {} });
  const moved = draft.of === material.id ? draft.own : {};
  const own: Own = { ...material.own, ...moved };
  const [colour, alpha] = parted(own.colour);
  const shown: Material = { ...material, id: `${material.id} in the making`, own };
  const move = (next: Partial<Own>) =>
    setDraft((now) => ({ of: material.id, own: { ...(now.of === material.id && now.own), ...next } }));
  const set = (next: Partial<Own>, label: string) => {
    setDraft({ of: material.id, own: {} });
    offer(label, "edit-material", { material: material.id, changes: next });
  };
  const slide = (
    name: keyof Own & string,
    label: string,
    {
      least = 0,
      most = 1,
      step = 0.01,
      show = share,
    }: { least?: number; most?: number; step?: number; show?: (v: number) => string } = {},
  ) => (
    <Slide
      className={GRID}
      label={label}
      value={own[name] as number}
      least={least}
      most={most}
      step={step}
      show={show}
      onMove={(value) => move({ [name]: value })}
      onSet={(value) => set({ [name]: value }, `${label} of ${material.name}`)}
    />
  );
  const withAlpha = (hex: string, opacity: number) =>
    opacity < 1
      ? hex +
        Math.round(opacity * 255)
          .toString(16)
          .padStart(2, "0")
      : hex;
  const changed = decisions.sort.materials.some((item) => item.id === material.id);
  const isOwn = material.id.startsWith("own:");
  const maps = row?.slots.filter((slot) => slot.state === "worn" && slot.picture) ?? [];
  const base = own.maps["base colour"] ?? Object.values(own.maps)[0];
  const tile = row && base && row.tile ? row.tile / Math.max(1e-9, Math.abs(base.scale[0]!)) : 0;
  const mode = own.mode ?? (alpha < 1 ? "blended" : "opaque");
  return (
    <div className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)] overflow-hidden">
      <div className="grid gap-2.5 px-4 pt-3 pb-3">
        <Name
          key={`${material.id} ${material.name}`}
          name={material.name}
          onName={(name) => set({ name }, `Called ${name}`)}
        />
        {/* Stays from material to material: to make its surroundings takes seconds on weak graphics. */}
        <Sample material={shown} tile={tile} />
        <div className="flex flex-wrap items-center gap-2">
          <Select
            label={`Wear another in the place of ${material.name}`}
            className="w-64"
            empty="Replace everywhere with…"
            value=""
            options={(result?.palette ?? [])
              .filter((item) => item.id !== material.id)
              .map((item) => ({ value: item.id, label: item.name, swatch: item.colour }))}
            onChange={(to) => offer(`${material.name} replaced`, "replace-material", { material: material.id, to })}
          />
          <Button
            onClick={() =>
              offer(`Copy of ${material.name}`, "copy-material", {
                material: material.id,
                name: `${material.name} copy`,
              })
            }
          >
            Copy
          </Button>
          <Button
            title="In every job, on this board"
            onClick={() =>
              change(async () => {
                need(
                  await api.POST("/api/jobs/{job_id}/shelf", {
                    params: { path: { job_id: job.id } },
                    body: { material: material.id },
                  }),
                );
                onShelf();
                return needJob(await api.GET("/api/jobs/{job_id}", { params: { path: { job_id: job.id } } }));
              })
            }
          >
            Keep for all jobs
          </Button>
          {changed && (
            <Button
              quiet
              onClick={() =>
                offer(isOwn ? `${material.name} taken away` : `${material.name} as it came`, "reset-material", {
                  material: material.id,
                })
              }
            >
              {isOwn ? "Take away" : "As it came"}
            </Button>
          )}
        </div>
      </div>
      <div key={material.id} className="min-h-0 overflow-y-auto px-4 pb-4">
        <div className="grid grid-cols-2 gap-x-8 gap-y-1">
          <Group name="Colour and opacity">
            <Tint
              label="Base colour"
              value={colour}
              onSet={(hex) => set({ colour: withAlpha(hex, alpha) }, `Base colour of ${material.name}`)}
            />
            <OneOf
              label="Opacity is taken as"
              value={mode}
              options={[
                { value: "opaque", label: "Opaque" },
                { value: "cut-out", label: "Cut-out" },
                { value: "blended", label: "Blended" },
              ]}
              onChange={(next) => set({ mode: next }, `${material.name} ${next}`)}
            />
            {mode !== "opaque" && (
              <Slide
                className={GRID}
                label="Opacity"
                value={alpha}
                least={0}
                most={1}
                step={0.01}
                show={share}
                onMove={(value) => move({ colour: withAlpha(colour, value) })}
                onSet={(value) => set({ colour: withAlpha(colour, value) }, `Opacity of ${material.name}`)}
              />
            )}
            {mode === "cut-out" && slide("cutoff", "Cut below")}
            <label className="flex items-center justify-between gap-2">
              Seen from both sides
              <Switch
                label={`${material.name} is seen from both sides`}
                on={own.both_sides}
                onChange={(both_sides) => set({ both_sides }, both_sides ? "Both sides" : "One side")}
              />
            </label>
          </Group>
          <Group name="Shine">
            {slide("metalness", "Metalness")}
            {slide("roughness", own.maps.roughness ? "Roughness, times the map" : "Roughness")}
            {slide("least_roughness", "Roughness at least")}
            {slide("specular", "Reflection")}
            {slide("coat", "Clear coat")}
          </Group>
          <Group name="Relief and shade">
            {slide("normal", "Normal strength", { most: 3, show: plain })}
            {slide("occlusion", "Occlusion")}
          </Group>
          <Group name="Light">
            <Tint
              label="Emission"
              value={own.emission}
              onSet={(emission) => set({ emission }, `Emission of ${material.name}`)}
            />
            {own.emission !== "#000000" &&
              slide("light", "Strength", { most: 20, step: 0.1, show: (v) => `${plain(v)}×` })}
            {slide("transmission", "Transmission")}
            {slide("ior", "Index of refraction", { least: 1, most: 2.5, show: plain })}
          </Group>
          <Group name="Pictures">
            {maps.length ? (
              <ul className="flex flex-wrap gap-2">
                {maps.map((slot) => (
                  <li key={slot.slot} className="w-20 text-center text-[12px]">
                    <img
                      src={small(slot.picture!)}
                      alt=""
                      className={`checker h-14 w-20 rounded border border-line object-cover ${slot.inverted ? "invert" : ""}`}
                    />
                    {slot.slot}
                  </li>
                ))}
              </ul>
            ) : (
              <p className="text-ink-soft">None. Pictures are given on the maps board.</p>
            )}
            {tile > 0 && (
              <div className="grid grid-cols-[112px_1fr] items-center gap-2.5">
                <span>Tile size</span>
                <LengthField
                  label={`Tile size of ${material.name}`}
                  value={tile}
                  empty=""
                  onSet={(next) => {
                    if (!next) return;
                    const times = tile / next;
                    const laid = Object.fromEntries(
                      Object.entries(own.maps).map(([slot, worn]) => [
                        slot,
                        { ...worn, scale: worn.scale.map((value) => value * times) },
                      ]),
                    );
                    set({ maps: laid }, `Tile of ${material.name} ${metric(next)}`);
                  }}
                />
              </div>
            )}
          </Group>
        </div>
      </div>
    </div>
  );
}

const Group = ({ name, children }: { name: string; children: ReactNode }) => (
  <section
    aria-label={name}
    className="grid content-start gap-1.5 border-t border-dashed border-line py-2.5 text-[13.5px]"
  >
    <h3 className="font-name text-[14px] font-semibold">{name}</h3>
    {children}
  </section>
);

/** A colour, chosen when the browser's own field is left. */
function Tint({ label, value, onSet }: { label: string; value: string; onSet: (hex: string) => void }) {
  const [held, setHeld] = useState<string | null>(null);
  return (
    <label className="grid grid-cols-[112px_auto_1fr] items-center gap-2.5">
      {label}
      <input
        type="color"
        aria-label={label}
        value={held ?? value.slice(0, 7)}
        onChange={(event) => setHeld(event.target.value)}
        onBlur={() => {
          if (held && held !== value) onSet(held);
          setHeld(null);
        }}
        className="h-7 w-12 rounded border border-field bg-white"
      />
      <span className="text-[13px] text-ink-soft">{(held ?? value).slice(0, 7)}</span>
    </label>
  );
}

function Name({ name, onName }: { name: string; onName: (name: string) => void }) {
  const [text, setText] = useState(name);
  return (
    <input
      aria-label="Name of the material"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => {
        if (text.trim() && text.trim() !== name) onName(text.trim());
        else setText(name);
      }}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      className="font-name w-full rounded-md border border-transparent bg-transparent px-1 text-[18px] font-semibold hover:border-field focus:border-field"
    />
  );
}
