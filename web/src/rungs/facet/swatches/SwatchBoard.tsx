import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, need, type Views } from "../../../api/client";
import { numbers } from "../../../api/read";
import { Board } from "../../../bench/Board";
import { useBench } from "../../../bench/bench";
import { Pictures } from "../../../stage/beside/Pictures";
import { Button, Fold, Folded, Select, Unfold } from "../../../ui/controls";
import { LogField } from "../../../ui/fields";
import { bytes, count, metric, pixels, plural } from "../../../ui/format";
import { SettingsCurve } from "./SettingsCurve";
import { adopted, type Chord, degreesSaid, scaled, type Setting, settingSaid, edgesOf } from "./settings";

type Swatch = Views["SwatchView"];

/** Milliseconds until swatches that are being made are asked for again. */
const AGAIN = 250;
const MOST = 3;

/** How parts look at up to three settings beside how they are, from one camera; nothing is decided before one is used. */
export function SwatchBoard({ parts, onClose }: { parts: number[]; onClose: () => void }) {
  const { job, structure, result, decisions, library, decide } = useBench();
  const { facet } = decisions;
  const made = parts.length ? result?.parts[parts[0]!] : undefined;
  const own: Setting =
    made && made.chord
      ? { chord: { kind: "absolute", metres: made.chord }, degrees: made.degrees, ...edgesOf(facet) }
      : { chord: facet.chord, degrees: facet.degrees, ...edgesOf(facet) };
  const [settings, setSettings] = useState<Setting[]>(() => [4, 2, 0.5].map((times) => scaled(own, times)));
  const [scale, setScale] = useState(0);
  const asked = useQuery({
    queryKey: ["swatches", job.id, job.decisions_id, result?.model_key, parts, settings],
    queryFn: async () =>
      need(
        await api.POST("/api/jobs/{job_id}/facet/swatches", {
          params: { path: { job_id: job.id } },
          body: { parts, settings },
        }),
      ),
    placeholderData: (before) => before,
    refetchInterval: (query) => (query.state.data?.swatches.every(({ ready }) => ready) ? false : AGAIN),
  });
  const swatches = useMemo(() => asked.data?.swatches ?? [], [asked.data]);
  const label = (part: number | null | undefined) => (part == null ? "" : (structure?.parts[part]?.label ?? ""));
  const refs = parts.map((part) => structure!.parts[part]!.ref);
  const name = parts.length === 1 ? label(parts[0]) : parts.length ? plural(parts.length, "part") : "all parts";
  const pictures = useMemo(
    () =>
      swatches.map((swatch) => ({
        parts: swatch.parts,
        label: swatch.setting ? settingSaid(swatch.setting) : "as it is",
        note: swatch.ready ? `${count(swatch.triangles)} triangles, off by ${metric(swatch.off)}` : "being made…",
      })),
    [swatches],
  );
  const use = (setting: Setting) =>
    decide((now) => adopted(now, refs, setting), `Facets of ${name}: ${settingSaid(setting)}`);
  const change = (at: number, next: Setting) => setSettings((now) => now.map((one, k) => (k === at ? next : one)));
  const offered = [
    ...library.purposes.map(({ id, metres, degrees }) => ({
      name: id[0]!.toUpperCase() + id.slice(1),
      setting: { chord: { kind: "absolute" as const, metres }, degrees, ...edgesOf(facet) },
    })),
    ...[16, 4, 2, 0.5, 0.25, 0.125].map((times) => ({
      name: times > 1 ? `${times} times coarser` : `${1 / times} times finer`,
      setting: scaled(own, times),
    })),
  ];
  return (
    <Board
      title="Swatches"
      description={`${name[0]!.toUpperCase()}${name.slice(1)} at several settings, from one camera. Nothing is decided until one is used.`}
      onClose={onClose}
    >
      <div className="min-h-0 overflow-auto border-r border-line px-4 py-3 text-[13px]">
        {asked.isError && (
          <p role="alert" className="text-signal">
            {asked.error.message}
          </p>
        )}
        {(asked.data?.left ?? 0) > 0 && (
          <p className="pb-1 text-[12.5px] text-ink-soft">
            The {plural(asked.data!.parts.length, "heaviest part")} are shown; {count(asked.data!.left)} more are not.
            Choose some to see those.
          </p>
        )}
        <table className="w-full border-collapse tabular-nums">
          <thead>
            <tr className="border-b border-line text-[12px] text-ink-soft">
              <th className="py-1 text-left font-medium">Setting</th>
              <th className="text-right font-medium">Triangles</th>
              <th className="pl-3 text-right font-medium">Off by</th>
              <th className="pl-3 text-right font-medium">Size</th>
              <th>
                <span className="sr-only">What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {swatches.map((swatch, at) => (
              <Row
                key={at}
                swatch={swatch}
                first={swatches[0]!}
                worst={parts.length === 1 ? "" : label(swatch.worst)}
                scale={scale}
                onUse={() => use(swatch.setting!)}
                onChange={(next) => change(at - 1, next)}
                onDrop={
                  settings.length > 1 ? () => setSettings((now) => now.filter((_, k) => k !== at - 1)) : undefined
                }
              />
            ))}
          </tbody>
        </table>
        {settings.length < MOST && (
          <div className="grid grid-cols-[auto_180px] items-center justify-start gap-2 pt-2">
            <span className="text-ink-soft">Compare with</span>
            <Select
              label="Another setting"
              value=""
              empty="Add a setting…"
              options={offered.map(({ name: word, setting }) => ({
                value: word,
                label: `${word}: ${settingSaid(setting)}`,
              }))}
              onChange={(next) => setSettings((now) => [...now, offered.find((one) => one.name === next)!.setting])}
            />
          </div>
        )}
        <SettingsCurve parts={parts} onUse={use} />
      </div>
      {structure && result && <Pictures pictures={pictures} onScale={setScale} />}
    </Board>
  );
}

const vertices = (swatch: Swatch) => plural(swatch.vertices, "vertex", "vertices");

function Row({
  swatch,
  first,
  worst,
  scale,
  onUse,
  onChange,
  onDrop,
}: {
  swatch: Swatch;
  first: Swatch;
  worst: string;
  /** Pixels that a metre is wide in the pictures. */
  scale: number;
  onUse: () => void;
  onChange: (next: Setting) => void;
  onDrop?: () => void;
}) {
  const { library } = useBench();
  const [open, setOpen] = useState(false);
  const { setting, ready } = swatch;
  const name = setting ? settingSaid(setting) : "as it is";
  const chord = setting?.chord as Chord | undefined;
  const failed = swatch.parts.filter(({ note }) => note);
  return (
    <>
      <tr className="align-baseline">
        <th scope="row" className="py-1.5 text-left font-semibold whitespace-nowrap">
          {name}
        </th>
        <td className="text-right">
          {ready ? count(swatch.triangles) : "…"}
          {ready && setting && first.ready && (
            <span className="block text-[12px] whitespace-nowrap text-ink-soft">
              {Number((swatch.triangles / Math.max(1, first.triangles)).toPrecision(2))} times
            </span>
          )}
        </td>
        <td className="pl-3 text-right whitespace-nowrap">
          {ready ? metric(swatch.off) : "…"}
          {ready && scale > 0 && (
            <span className="block text-[12px] text-ink-soft">{pixels(swatch.off * scale)} here</span>
          )}
        </td>
        <td className="pl-3 text-right whitespace-nowrap">
          {ready ? bytes(swatch.bytes) : "…"}
          {ready && swatch.seconds > 0 && (
            <span className="block text-[12px] text-ink-soft">{Number(swatch.seconds.toPrecision(2))} s</span>
          )}
        </td>
        <td className="w-[74px] pl-2 text-right">
          {setting && (
            <Button main disabled={!ready} aria-label={`Use ${name}`} onClick={onUse}>
              Use
            </Button>
          )}
        </td>
      </tr>
      <tr className="border-b border-cloth-deep text-[12.5px]">
        <td colSpan={5} className="pb-1.5 text-ink-soft">
          {ready && (
            <p>
              {swatch.mean != null && <>on average {metric(swatch.mean)}, </>}
              {swatch.bound != null
                ? `nowhere more than ${metric(swatch.bound)}`
                : swatch.samples > 0 && `found at ${count(swatch.samples)} points`}
              {worst && <>; worst: {worst}</>}
              <>; {vertices(swatch)}</>
            </p>
          )}
          {failed.length > 0 && <p className="text-signal">{failed[0]!.note}</p>}
          {setting && chord && (
            <Fold open={open} onOpen={setOpen}>
              <span className="flex items-baseline gap-3">
                <Unfold open={open} name={`Change ${name}`}>
                  {null}
                </Unfold>
                {onDrop && (
                  <Button quiet className="!px-0 !py-0" aria-label={`Leave out ${name}`} onClick={onDrop}>
                    Leave out
                  </Button>
                )}
              </span>
              <Folded className="grid gap-1.5 py-1.5 text-ink">
                {chord.kind === "absolute" ? (
                  <LogField
                    label="Chord error"
                    value={chord.metres}
                    range={library.ranges["facet.chord"]!}
                    show={metric}
                    onMove={() => {}}
                    onSet={(metres) => onChange({ ...setting, chord: { kind: "absolute", metres } })}
                  />
                ) : (
                  <LogField
                    label="Chord error"
                    value={chord.share}
                    range={library.ranges["facet.share"]!}
                    show={(value) => `${Number((value * 100).toPrecision(2))} %`}
                    read={numbers("%", 0.01)}
                    onMove={() => {}}
                    onSet={(share) => onChange({ ...setting, chord: { kind: "relative", share } })}
                  />
                )}
                <LogField
                  label="Angle"
                  value={setting.degrees!}
                  range={library.ranges["facet.degrees"]!}
                  show={degreesSaid}
                  read={numbers("°|deg")}
                  onMove={() => {}}
                  onSet={(degrees) => onChange({ ...setting, degrees })}
                />
              </Folded>
            </Fold>
          )}
        </td>
      </tr>
    </>
  );
}
