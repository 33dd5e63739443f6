import { Popover } from "radix-ui";

import { Button, OneOf, Switch } from "../ui/controls";
import { Slide } from "../ui/Slide";
import { type Light, LIGHTS, PLAIN_LIGHT } from "./light";

const WORDS = { overcast: "Overcast", side: "Side", studio: "Studio" };
const PLACE = "light";

/** The light that was chosen last in this browser. */
export function keptLight(): Light {
  try {
    const kept = JSON.parse(localStorage.getItem(PLACE) ?? "{}") as Partial<Light>;
    const fine = LIGHTS.includes(kept.kind!) && Number.isFinite(kept.stops) && Number.isFinite(kept.turn);
    return fine ? (kept as Light) : PLAIN_LIGHT;
  } catch {
    return PLAIN_LIGHT;
  }
}

/** What light falls on the stage: kind, exposure, and where it comes from. */
export function LightMenu({
  light,
  onLight,
  sun,
}: {
  light: Light;
  onLight: (light: Light) => void;
  /** Whether a source says where its sun stands. */
  sun: boolean;
}) {
  const set = (change: Partial<Light>) => {
    const next = { ...light, ...change };
    localStorage.setItem(PLACE, JSON.stringify(next));
    onLight(next);
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>Light</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="bottom"
          align="start"
          sideOffset={6}
          aria-label="Light on the stage"
          className="z-40 grid w-80 gap-2.5 rounded-md border border-line bg-paper p-3 shadow-lg"
        >
          <OneOf
            label="Kind of light"
            value={light.kind}
            options={LIGHTS.map((value) => ({ value, label: WORDS[value] }))}
            onChange={(kind) => set({ kind })}
          />
          <Slide
            label="Exposure"
            value={light.stops}
            least={-3}
            most={3}
            step={0.25}
            show={(value) => `${value > 0 ? "+" : value < 0 ? "−" : ""}${Math.abs(value)} EV`}
            onMove={(stops) => set({ stops })}
          />
          <Slide
            label="Turned"
            value={light.turn}
            least={0}
            most={360}
            step={5}
            show={(value) => `${value}°`}
            onMove={(turn) => set({ turn })}
          />
          {sun && (
            <label className="flex items-center justify-between">
              Lamp where the source has its sun
              <Switch label="Lamp where the source has its sun" on={!!light.sun} onChange={(on) => set({ sun: on })} />
            </label>
          )}
          <p className="text-[12.5px] text-ink-soft">For looking only: no light is shipped.</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
