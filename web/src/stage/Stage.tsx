import { useEffect, useMemo, useRef, useState } from "react";

import type { Job, Result } from "../api/client";
import { tellInView } from "../api/inView";
import { type Look, SHOW_ALL, useBench } from "../bench/bench";
import { asksForMenu } from "../bench/menu/asks";
import { Button } from "../ui/controls";
import { box, bytes, count, metric, round } from "../ui/format";
import { FlawLines } from "./FlawLines";
import { Handles } from "./Handles";
import { keptLight, LightMenu } from "./LightMenu";
import { LookoutsMenu } from "./LookoutsMenu";
import { StageMarks } from "./picking/StageMarks";
import { usePicking } from "./picking/usePicking";
import { BoxChoice } from "./picking/BoxChoice";
import { isPicked, picked } from "./picking/picked";
import { Missed } from "./Missed";
import { PackShelf } from "./shelf";
import { useBodies } from "./useBodies";
import { usePacks } from "./usePacks";
import { usePicture } from "./usePicture";
import { StageScene } from "./StageScene";
import { TintKey } from "./TintKey";
import { gridStep, YARDSTICK } from "./yardstick";

const LOOKS: { look: Look; label: string }[] = [
  { look: "shaded", label: "Shaded" },
  { look: "facets", label: "Facets" },
  { look: "edges", label: "Edges" },
  { look: "colours", label: "Colours" },
  { look: "facing", label: "Facing" },
];
/** By name the direction one looks from, Z up, and what that is called. */
const VIEWS: [string, [number, number, number, string]][] = [
  ["Front", [0, -1, 0, "the front"]],
  ["Side", [1, 0, 0, "the right"]],
  ["Top", [0, -1e-3, 1, "above"]],
];
/** What keys do while the stage has the focus: turn, shift, come nearer. */
const MOVES: Record<string, (scene: StageScene) => void> = {
  ArrowLeft: (scene) => scene.turn(0.12, 0),
  ArrowRight: (scene) => scene.turn(-0.12, 0),
  ArrowUp: (scene) => scene.turn(0, -0.12),
  ArrowDown: (scene) => scene.turn(0, 0.12),
  "Shift ArrowLeft": (scene) => scene.shift(0.06, 0),
  "Shift ArrowRight": (scene) => scene.shift(-0.06, 0),
  "Shift ArrowUp": (scene) => scene.shift(0, -0.06),
  "Shift ArrowDown": (scene) => scene.shift(0, 0.06),
  "+": (scene) => scene.approach(0.85),
  "=": (scene) => scene.approach(0.85),
  "Shift +": (scene) => scene.approach(0.85),
  "-": (scene) => scene.approach(1 / 0.85),
  Home: (scene) => scene.frame(new Set()),
};
/** Parts whose triangles are made before the rest, because they are in view. */
const MOST_FIRST = 500;
const NEAR = { label: "Move it near the origin", does: "near-origin", values: {} };

/** The 3D view with what stands on it. */
export function Stage({ wide = false, onWide }: { wide?: boolean; onWide?: () => void }) {
  const { job, structure, result, view, setView, take } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const tag = useRef<HTMLDivElement>(null);
  const [scene, setScene] = useState<StageScene | null>(null);
  const [failed, setFailed] = useState(false);
  const [split, setSplit] = useState(0.46);
  const [parallel, setParallel] = useState(false);
  const [light, setLight] = useState(keptLight);
  const packs = useMemo(() => new PackShelf(), []);
  useEffect(() => {
    let made: StageScene;
    try {
      made = new StageScene(canvas.current!);
    } catch {
      // eslint-disable-next-line react-hooks/set-state-in-effect -- whether there is WebGL shows only on trying
      setFailed(true);
      return;
    }
    made.onDrawn = (at) => {
      if (!tag.current) return;
      tag.current.style.display = at ? "" : "none";
      if (at) tag.current.style.transform = `translate(${at.x}px, ${at.y - 30}px)`;
    };
    const watch = new ResizeObserver(([entry]) => made.resize(entry!.contentRect.width, entry!.contentRect.height));
    watch.observe(canvas.current!.parentElement!);
    setScene(made);
    tellInView(() => made.inView(MOST_FIRST));
    return () => {
      tellInView(null);
      watch.disconnect();
      made.dispose();
    };
  }, []);

  const size = result?.size.join();
  const tall = result?.yardstick;
  const { centre, beside } = useCentre(result);
  // The camera is set once, when there is something to see first; it stays where a person put it when the size changes.
  const placed = useRef<StageScene | null>(null);
  useEffect(() => {
    if (!scene || !size) return;
    const sides = size.split(",").map(Number);
    scene.setSize(sides, beside, tall ?? YARDSTICK);
    if (placed.current === scene || !Math.max(...sides)) return;
    placed.current = scene;
    scene.frame(new Set());
  }, [scene, size, beside, tall]);

  const held = usePacks(scene, packs, structure, result, centre, view.compare);
  const nudge = useBodies(scene, packs, held, centre);
  const picking = usePicking(scene, centre);

  // Beside a board there is room for little: what is chosen, or all, comes into the strip.
  const narrow = view.board === "beside";
  useEffect(() => {
    if (!scene || !narrow) return;
    const soon = setTimeout(() => setView((now) => ({ framed: now.framed + 1 })), 100);
    return () => {
      clearTimeout(soon);
      setTimeout(() => setView((now) => ({ framed: now.framed + 1 })), 100);
    };
  }, [scene, narrow, setView]);

  useEffect(() => scene?.setParallel(parallel), [scene, parallel]);
  useEffect(() => scene?.setLight(light, result?.sun ?? null), [scene, light, result?.sun]);
  // At Fit what is compared is where everything stood before the last change there.
  const atFit = view.open === "Fit";
  const comparable = atFit ? !!result?.sources.some((source) => source.before) : result?.triangles_before !== null;
  const comparing = view.compare && comparable;
  useEffect(() => scene?.compare(comparing ? split : null), [scene, comparing, split]);
  const chosen = useRef(view);
  useEffect(() => {
    chosen.current = view;
  }, [view]);
  useEffect(() => {
    if (view.framed) scene?.frame(chosen.current.chosen, false, chosen.current.places);
  }, [scene, view.framed]);

  const apart = farOut(result, job);

  usePicture(scene, job, packs.isHere(result));

  const down = useRef({ x: 0, y: 0 });
  const pick = (event: React.PointerEvent) => {
    if (Math.hypot(event.clientX - down.current.x, event.clientY - down.current.y) > 4 || !scene) return;
    const bounds = canvas.current!.getBoundingClientRect();
    const [x, y] = [event.clientX - bounds.left, event.clientY - bounds.top];
    if (view.tool) return void picking.take(x, y);
    const node = scene.hit(x, y)?.node ?? null;
    // The other button asks what can be done: with what is there, or, where that is chosen already, with all that is.
    const menu = event.button === 2 ? { x: event.clientX, y: event.clientY } : null;
    setView((now) => ({
      ...(menu && (node === null || isPicked(now, structure!, node))
        ? {}
        : picked(now, structure!, node, event.shiftKey || event.ctrlKey)),
      menu,
    }));
  };

  return (
    <section aria-label="Stage" className="stage-ground relative min-h-0 overflow-hidden">
      <canvas
        ref={canvas}
        aria-label={result ? `The model in 3D, ${count(result.triangles)} triangles` : "The model in 3D"}
        className="absolute inset-0 size-full -outline-offset-2"
        onPointerDown={(event) => (down.current = { x: event.clientX, y: event.clientY })}
        onPointerUp={pick}
        onPointerMove={(event) => {
          if (!view.tool || event.buttons) return;
          const bounds = canvas.current!.getBoundingClientRect();
          picking.point(event.clientX - bounds.left, event.clientY - bounds.top);
        }}
        onPointerLeave={picking.leave}
        data-centre={centre.join(" ")}
        tabIndex={0}
        role="application"
        aria-roledescription="3D view"
        onKeyDown={(event) => {
          if (view.tool && event.key === "Escape") return setView({ tool: null, picks: [] });
          if (view.tool && event.key === "Enter") {
            const { width, height } = canvas.current!.getBoundingClientRect();
            return void picking.take(width / 2, height / 2);
          }
          if (asksForMenu(event)) {
            const { left, top, width, height } = canvas.current!.getBoundingClientRect();
            event.preventDefault();
            return setView({ menu: { x: left + width / 2, y: top + height / 2 } });
          }
          const move = scene && MOVES[event.shiftKey ? `Shift ${event.key}` : event.key];
          if (!move || event.ctrlKey || event.metaKey || event.altKey) return;
          event.preventDefault();
          move(scene);
        }}
      />
      {scene && view.boxing && <BoxChoice scene={scene} onEnd={() => setView({ boxing: false })} />}
      <div className="absolute top-3 left-3.5 flex gap-1.5">
        {LOOKS.filter(({ look }) => !narrow || look === "colours").map((item) => (
          <Button
            key={item.look}
            on={view.look === item.look}
            onClick={() => setView({ look: narrow && view.look === item.look ? "shaded" : item.look })}
          >
            {item.label}
          </Button>
        ))}
        {!narrow && <LightMenu light={light} onLight={setLight} sun={!!result?.sun} />}
        {!narrow && (
          <Button
            on={view.boxing}
            disabled={!result}
            title="Draw a box: what it touches is chosen, also what lies behind"
            onClick={() => setView((now) => ({ boxing: !now.boxing }))}
          >
            Box
          </Button>
        )}
      </div>
      <div className="absolute top-3 right-3.5 flex gap-1.5">
        {!narrow && (
          <Button
            on={comparing}
            disabled={!comparable}
            title={
              atFit
                ? "Pull the rope between where it stood and where it stands"
                : "Pull the rope between the triangles before and now"
            }
            onClick={() => setView({ compare: !view.compare })}
          >
            Before and after
          </Button>
        )}
        <Button onClick={() => setView((now) => ({ framed: now.framed + 1 }))}>
          {view.chosen.size ? "Frame chosen" : "Frame all"}
        </Button>
        {onWide && !narrow && (
          <Button on={wide} onClick={onWide}>
            {wide ? "Back to the bench" : "Whole window"}
          </Button>
        )}
      </div>
      {comparing && (
        <Rope
          at={split}
          onPull={setSplit}
          before={atFit ? "where it stood" : count(result!.triangles_before!)}
          now={atFit ? box(result!.size) : count(result!.triangles)}
        />
      )}
      {view.look === "colours" && <Missed />}
      {view.open === "Facet" && view.tint !== "none" && <TintKey />}
      {scene && <StageMarks scene={scene} centre={centre} picking={picking} />}
      {scene && view.open === "Mend" && !view.tool && <FlawLines scene={scene} centre={centre} />}
      {scene && atFit && view.handled !== null && result && <Handles scene={scene} centre={centre} nudge={nudge} />}
      <div
        ref={tag}
        className="pointer-events-none absolute top-0 left-0 rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12px] whitespace-nowrap"
        style={{ display: "none" }}
      >
        yardstick {metric(tall ?? YARDSTICK)}
      </div>
      {result && (
        <div className="pointer-events-none absolute right-3.5 bottom-3.5 rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12px]">
          grid {round(gridStep(result.size))}
        </div>
      )}
      <div className={`absolute bottom-3 left-3.5 gap-1.5 ${narrow ? "hidden" : "flex"}`}>
        {result && scene && (
          <LookoutsMenu
            seen={() => scene.seen(centre)}
            onLook={(from) => {
              setParallel(!from.tall);
              scene.lookOut(from, centre);
            }}
          />
        )}
        {VIEWS.map(([name, from]) => (
          <Button
            key={name}
            title={`Everything, seen from ${from[3]}`}
            onClick={() => scene?.lookFrom(from[0], from[1], from[2])}
          >
            {name}
          </Button>
        ))}
        <Button
          on={parallel}
          title="Parallel projection: what is farther off is not smaller"
          onClick={() => setParallel((now) => !now)}
        >
          Parallel
        </Button>
      </div>
      {view.hidden.size + view.hiddenPlaces.size > 0 && (
        <div className="absolute bottom-12 left-3.5 flex items-center gap-2 rounded-[5px] border border-line bg-paper/90 px-2 py-1 text-[12px]">
          {count(view.hidden.size + view.hiddenPlaces.size)} hidden{" "}
          <Button quiet className="px-0 py-0" onClick={() => setView(SHOW_ALL)}>
            Show all
          </Button>
        </div>
      )}
      {held.over > 0 && (
        <div
          role="status"
          className="absolute bottom-32 left-3.5 flex items-center gap-2 rounded-[5px] border border-line bg-paper px-2 py-1 text-[12.5px]"
        >
          {bytes(held.budget)} of meshes are held; the rest, farther from view, is not shown.
          <Button quiet className="px-0 py-0" onClick={() => packs.allowMore()}>
            Show more of them
          </Button>
        </div>
      )}
      {held.lost > 0 && (
        <div
          role="alert"
          className="absolute bottom-20 left-3.5 flex items-center gap-2 rounded-[5px] border border-signal bg-signal-pale px-2 py-1 text-[12.5px]"
        >
          Some meshes did not arrive.
          <Button quiet className="px-0 py-0" onClick={() => packs.again()}>
            Fetch them again
          </Button>
        </div>
      )}
      {apart && !held.over && (
        <div
          role="status"
          className="absolute inset-0 m-auto grid h-fit w-fit max-w-sm gap-2 rounded-md border border-line bg-paper px-4 py-3 text-center"
        >
          <span>
            The sources lie {metric(apart.away)} apart, so that each is smaller here than a pixel. {apart.name} lies far
            out.
          </span>
          <Button main onClick={() => take({ source: apart.ref, parts: [] }, NEAR)}>
            Bring it near the others
          </Button>
        </div>
      )}
      <StageNotice failed={failed} state={job.state} known={!!structure} ready={!!result} />
    </section>
  );
}

/** The source that lies so far from the others that nothing is to be seen any more, and how far apart all lie. */
function farOut(result: Result | undefined, job: Job) {
  if (!result || result.sources.length < 2) return null;
  const [away, largest] = [Math.max(...result.size), Math.max(...result.sources.flatMap((source) => source.size))];
  if (away < 1e4 || away < 300 * largest) return null;
  const distance = (source: Result["sources"][number]) => Math.hypot(...source.middle);
  const far = result.sources.reduce((one, two) => (distance(two) > distance(one) ? two : one));
  return { away, ref: far.ref, name: job.sources.find((source) => source.ref === far.ref)?.name ?? far.ref };
}

/**
 * The point that everything is drawn around, which stays while the middle of the model moves little, as it does while
 * meshes come in; and how far beside it the middle is. In metres.
 */
function useCentre(result: Result | undefined) {
  const [kept, keep] = useState<{ model: string; centre: number[] }>({ model: "", centre: [0, 0, 0] });
  const box = result?.box;
  const middle = useMemo(
    () => (box ? [0, 1, 2].map((axis) => (box[0]![axis]! + box[1]![axis]!) / 2) : [0, 0, 0]),
    [box],
  );
  const away = middle.map((value, axis) => value - kept.centre[axis]!);
  const far = result && (kept.model !== result.model_key || Math.hypot(...away) > 0.25 * Math.max(...result.size));
  if (far) keep({ model: result.model_key, centre: middle });
  const beside = useMemo(() => middle.map((value, axis) => value - kept.centre[axis]!), [middle, kept]);
  return { centre: kept.centre, beside };
}

function StageNotice({
  failed,
  state,
  known,
  ready,
}: {
  failed: boolean;
  state: string;
  known: boolean;
  ready: boolean;
}) {
  const text = failed
    ? "This browser gives no 3D drawing (WebGL 2). Everything else on the bench works."
    : state === "refused"
      ? "The source could not be read. What was found stands at Receive."
      : state === "cancelled"
        ? "Reading was stopped."
        : state !== "ready"
          ? known
            ? "The structure stands in the ledger already; triangles follow."
            : "Reading the source. Structure comes first, triangles after it."
          : ready
            ? null
            : "Working it out…";
  return text && <p className="absolute inset-0 m-auto h-fit w-fit max-w-sm text-center text-ink-soft">{text}</p>;
}

/** The rope between before and now; pulled with the pointer or the arrow keys. */
function Rope({ at, onPull, before, now }: { at: number; onPull: (at: number) => void; before: string; now: string }) {
  const pull = (event: React.PointerEvent<HTMLElement>) => {
    if (event.type === "pointerdown") event.currentTarget.setPointerCapture(event.pointerId);
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const bounds = event.currentTarget.closest("section")!.getBoundingClientRect();
    onPull(Math.min(0.98, Math.max(0.02, (event.clientX - bounds.left) / bounds.width)));
  };
  return (
    <>
      <div
        role="slider"
        tabIndex={0}
        aria-label="Rope between before and now"
        aria-valuenow={Math.round(at * 100)}
        aria-valuemin={2}
        aria-valuemax={98}
        aria-valuetext={`${Math.round(at * 100)} % of the stage shows before`}
        onPointerDown={pull}
        onPointerMove={pull}
        onKeyDown={(event) => {
          const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
          if (by) onPull(Math.min(0.98, Math.max(0.02, at + by)));
        }}
        className="absolute inset-y-0 w-4 -translate-x-1/2 cursor-ew-resize touch-none"
        style={{ left: `${at * 100}%` }}
      >
        <div className="rope mx-auto h-full w-1" />
        <div className="absolute top-1/2 left-1/2 grid size-6 -translate-1/2 place-content-center rounded-full bg-rope text-[11px] font-bold text-white">
          ‹›
        </div>
      </div>
      <div
        className="pointer-events-none absolute bottom-14 rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12px]"
        style={{ right: `calc(${(1 - at) * 100}% + 16px)` }}
      >
        before · {before}
      </div>
      <div
        className="pointer-events-none absolute bottom-14 rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12px]"
        style={{ left: `calc(${at * 100}% + 16px)` }}
      >
        now · {now}
      </div>
    </>
  );
}
