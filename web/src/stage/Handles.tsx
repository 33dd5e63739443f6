import { useEffect, useMemo, useRef, useState } from "react";
import { Matrix4, Vector3 } from "three";

import { lengths, numbers } from "../api/read";
import { useBench } from "../bench/bench";
import { metric } from "../ui/format";
import { useTyped } from "../ui/typed";
import { screen } from "./picking/Overlay";
import type { StageScene } from "./StageScene";

const AXES = ["x", "y", "z"] as const;
type Axis = (typeof AXES)[number];
const UNIT: Record<Axis, Vector3> = { x: new Vector3(1, 0, 0), y: new Vector3(0, 1, 0), z: new Vector3(0, 0, 1) };
/** Pixels that a handle is long, and steps of a turn in degrees; with Shift whole degrees. */
const LONG = 120;
const STEP = 5;

interface Drag {
  kind: "move" | "turn";
  axis: Axis;
  amount: number;
}
type Nudge = (nudge: { member: number | null; by: Matrix4 } | null) => void;

/**
 * Cords to pull at and arcs to swing by, at the foot of what is moved. What was pulled stands beside it as a number
 * that can be typed over.
 */
export function Handles({ scene, centre, nudge }: { scene: StageScene; centre: number[]; nudge: Nudge }) {
  const { result, view, fit } = useBench();
  const frame = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const [last, setLast] = useState<Drag | null>(null);
  const ref = view.handled;
  const member = ref ? (result?.sources.findIndex((source) => source.ref === ref) ?? -1) : -1;
  const foot = useMemo(() => {
    if (!result) return new Vector3();
    const source = member >= 0 ? result.sources[member]! : null;
    const middle = source
      ? source.middle
      : [0, 1, 2].map((axis) => (result.box[0]![axis]! + result.box[1]![axis]!) / 2);
    const high = source ? source.size[2]! : result.size[2]!;
    return new Vector3(middle[0]! - centre[0]!, middle[1]! - centre[1]!, middle[2]! - high / 2 - centre[2]!);
  }, [result, member, centre]);
  const began = useRef<{ x: number; y: number } | null>(null);

  const long = () => {
    const away = foot.distanceTo(scene.camera.position);
    return (LONG * 2 * Math.tan((scene.camera.fov * Math.PI) / 360) * away) / Math.max(1, scene.eyes.height);
  };
  useEffect(() => {
    const place = () => {
      const root = frame.current;
      if (!root) return;
      const project = screen(scene);
      const size = long();
      const start = project(foot);
      root.style.display = start ? "" : "none";
      if (!start) return;
      for (const axis of AXES) {
        const end = project(foot.clone().addScaledVector(UNIT[axis], size));
        const cord = root.querySelector(`[data-cord="${axis}"]`);
        if (end && cord) {
          cord.querySelector("line")!.setAttribute("x1", String(start[0]));
          cord.querySelector("line")!.setAttribute("y1", String(start[1]));
          cord.querySelector("line")!.setAttribute("x2", String(end[0]));
          cord.querySelector("line")!.setAttribute("y2", String(end[1]));
          cord.querySelector("[data-grip]")!.setAttribute("transform", `translate(${end[0]} ${end[1]})`);
        }
        const arc = root.querySelector(`[data-arc="${axis}"]`);
        const points = arcOf(axis).map((point) => project(point.multiplyScalar(size * 0.62).add(foot)));
        if (arc && points.every((point) => point !== null)) {
          arc.querySelector("polyline")!.setAttribute("points", points.map((point) => point!.join(",")).join(" "));
          const [x, y] = points[points.length >> 1]!;
          arc.querySelector("[data-grip]")!.setAttribute("transform", `translate(${x} ${y})`);
        }
      }
    };
    place();
    return scene.watch(place);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the length is worked out when it is drawn
  }, [scene, foot]);

  const preview = (now: Drag | null) => {
    setDrag(now);
    nudge(now && { member: member >= 0 ? member : null, by: matrixOf(now, foot) });
  };
  const take = (now: Drag) => {
    if (!now.amount) return nudge(null);
    const sources = ref ? [ref] : [];
    const label = told(now);
    const spot = foot.toArray().map((value, axis) => value + centre[axis]!) as [number, number, number];
    const done = (problem: unknown) => {
      if (problem) nudge(null);
    };
    if (now.kind === "move") {
      const by = AXES.map((axis) => (axis === now.axis ? now.amount : 0)) as [number, number, number];
      fit({ does: "move", sources, by }, label, done);
    } else fit({ does: "turn", sources, axis: now.axis, degrees: now.amount, around: spot }, label, done);
    setLast(now);
  };
  const grips = (kind: Drag["kind"], axis: Axis) => ({
    tabIndex: 0,
    role: "slider",
    "aria-label": `${kind === "move" ? "Move along" : "Turn about"} ${axis.toUpperCase()}`,
    "aria-valuenow": drag?.kind === kind && drag.axis === axis ? drag.amount : 0,
    "aria-valuetext": drag?.kind === kind && drag.axis === axis ? told(drag) : "not moved",
    onPointerDown: (event: React.PointerEvent<SVGGElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      began.current = { x: event.clientX, y: event.clientY };
      setLast(null);
      preview({ kind, axis, amount: 0 });
    },
    onPointerMove: (event: React.PointerEvent<SVGGElement>) => {
      if (!began.current || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
      const amount = kind === "move" ? pulled(axis, event) : swung(axis, event);
      preview({ kind, axis, amount });
    },
    onPointerUp: () => {
      began.current = null;
      if (drag) take(drag);
      setDrag(null);
    },
    onKeyDown: (event: React.KeyboardEvent) => {
      const sign = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
      if (!sign) return;
      event.preventDefault();
      const amount = kind === "turn" ? sign * (event.shiftKey ? 1 : STEP) : sign * neat(long() / 10);
      take({ kind, axis, amount });
    },
  });
  const pulled = (axis: Axis, event: React.PointerEvent) => {
    const project = screen(scene);
    const size = long();
    const [start, end] = [project(foot), project(foot.clone().addScaledVector(UNIT[axis], size))];
    if (!start || !end) return 0;
    const [dx, dy] = [end[0] - start[0], end[1] - start[1]];
    const along = (event.clientX - began.current!.x) * dx + (event.clientY - began.current!.y) * dy;
    const step = neat(size / (event.shiftKey ? 200 : 40));
    return Number((Math.round(((along / Math.max(dx * dx + dy * dy, 25)) * size) / step) * step).toPrecision(9));
  };
  const swung = (axis: Axis, event: React.PointerEvent) => {
    const start = screen(scene)(foot);
    if (!start) return 0;
    const bounds = frame.current!.getBoundingClientRect();
    const angle = (x: number, y: number) => Math.atan2(y - bounds.top - start[1], x - bounds.left - start[0]);
    let turned = angle(began.current!.x, began.current!.y) - angle(event.clientX, event.clientY);
    if (UNIT[axis].dot(scene.camera.position.clone().sub(foot)) < 0) turned = -turned;
    if (turned > Math.PI) turned -= 2 * Math.PI;
    if (turned < -Math.PI) turned += 2 * Math.PI;
    const step = event.shiftKey ? 1 : STEP;
    return Math.round((turned * 180) / Math.PI / step) * step;
  };
  return (
    <>
      <svg
        ref={frame}
        className="pointer-events-none absolute inset-0 size-full select-none"
        role="group"
        aria-label="Handles"
      >
        {AXES.map((axis) => (
          <g key={`arc ${axis}`} data-arc={axis}>
            <polyline fill="none" stroke="#a2743a" strokeWidth={2.5} strokeDasharray="1 3" strokeLinecap="round" />
            <g data-grip {...grips("turn", axis)} className="pointer-events-auto cursor-grab">
              <circle r={8} fill="#fffdf8" stroke="#a2743a" strokeWidth={2} />
              <text textAnchor="middle" dy={3.5} fontSize={9} fill="#1d2730" aria-hidden>
                {axis.toUpperCase()}°
              </text>
            </g>
          </g>
        ))}
        {AXES.map((axis) => (
          <g key={`cord ${axis}`} data-cord={axis}>
            <line stroke="#a2743a" strokeWidth={3} strokeLinecap="round" />
            <g data-grip {...grips("move", axis)} className="pointer-events-auto cursor-grab">
              <rect x={-9} y={-9} width={18} height={18} rx={5} fill="#1d2730" />
              <text textAnchor="middle" dy={4} fontSize={11} fontWeight={600} fill="#fff" aria-hidden>
                {axis.toUpperCase()}
              </text>
            </g>
          </g>
        ))}
      </svg>
      {(drag ?? last) && (
        <div className="absolute top-28 left-3.5 flex items-center gap-2 rounded-[5px] border border-line bg-paper px-2 py-1 text-[13px]">
          {drag ? (
            told(drag)
          ) : (
            <Amount key={told(last!)} last={last!} onTyped={(amount) => take({ ...last!, amount })} />
          )}
        </div>
      )}
    </>
  );
}

/** How far the last pull went, to be typed over: the difference is pulled too. */
function Amount({ last, onTyped }: { last: Drag; onTyped: (more: number) => void }) {
  const isMove = last.kind === "move";
  const typed = useTyped({
    value: last.amount,
    shown: isMove ? metric(last.amount) : `${last.amount}°`,
    read: isMove ? lengths("m", true) : numbers("°"),
    refuse: (next) => (Math.abs(next) <= (isMove ? 1e8 : 36_000) ? null : "That is too far."),
    onSet: (next) => onTyped(next! - last.amount),
  });
  return (
    <label className="relative flex items-center gap-2">
      {isMove ? "Moved along" : "Turned about"} {last.axis.toUpperCase()}
      <input {...typed.input()} className="w-24 rounded-md border border-field bg-white px-1.5 py-0.5 text-right" />
      {typed.note}
    </label>
  );
}

const told = ({ kind, axis, amount }: Drag) =>
  kind === "move"
    ? `moved ${metric(amount)} along ${axis.toUpperCase()}`
    : `turned ${amount}° about ${axis.toUpperCase()}`;

/** 1, 2 or 5 times a power of ten. */
function neat(value: number): number {
  const power = 10 ** Math.floor(Math.log10(value));
  return [1, 2, 5, 10].map((factor) => factor * power).find((step) => step >= value * 0.999)!;
}

function matrixOf({ kind, axis, amount }: Drag, foot: Vector3): Matrix4 {
  if (kind === "move") return new Matrix4().makeTranslation(UNIT[axis].clone().multiplyScalar(amount));
  return new Matrix4()
    .makeTranslation(foot)
    .multiply(new Matrix4().makeRotationAxis(UNIT[axis], (amount * Math.PI) / 180))
    .multiply(new Matrix4().makeTranslation(foot.clone().negate()));
}

/** A quarter of a circle about an axis, of radius 1. */
function arcOf(axis: Axis): Vector3[] {
  const at = AXES.indexOf(axis);
  const [first, second] = [UNIT[AXES[(at + 1) % 3]!], UNIT[AXES[(at + 2) % 3]!]];
  return Array.from({ length: 17 }, (_, k) => {
    const angle = ((k / 16) * Math.PI) / 2;
    return first.clone().multiplyScalar(Math.cos(angle)).addScaledVector(second, Math.sin(angle));
  });
}
