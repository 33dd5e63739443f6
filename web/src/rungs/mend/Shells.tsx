import type { Decisions, Part, Structure } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Button, Fact } from "../../ui/controls";
import { MoveField } from "../../ui/fields";
import { box, count, plural } from "../../ui/format";
import { useCurve, useStudy } from "./useStudy";

/** So many shells are listed; the rest is counted. */
const LISTED = 6;

/** A volume in the unit that suits it. */
const cubic = (metres: number) =>
  Math.abs(metres) < 1e-3 ? `${Number((metres * 1e6).toPrecision(4))} cm³` : `${Number(metres.toPrecision(4))} m³`;

/** What a volume was before, and by how much it changed, where it did. */
function changed(before: number, now: number): string {
  const share = before ? (now - before) / Math.abs(before) : 0;
  return Math.abs(share) < 1e-4
    ? ""
    : `${cubic(before)} before, ${share > 0 ? "+" : ""}${(share * 100).toFixed(1)} %, `;
}

/** What can be wrong with the normals of vertices. */
const BAD: Record<string, string> = {
  missing: "missing",
  zero: "of no length",
  long: "not of length one, put right",
  against: "look the wrong way",
  split: "split without reason",
};

/** The one chosen part: watertight or not before and after, its loose shells, and what was taken out of it or joined. */
export function Shells({ part, chosen }: { part: number; chosen: Part }) {
  const { decisions, decide, result, structure } = useBench();
  const study = useStudy(part);
  const unmended = useCurve(part);
  const before = unmended?.watertight;
  const made = result?.parts[part];
  const mend = decisions.mend;
  const out = mend.apart.filter((entry) => entry.part === chosen.ref);
  const joined = mend.joined.findIndex(({ name }, at) => chosen.ref === `${name} / joined ${at + 1}`);
  const change = (next: (now: Decisions["mend"]) => Decisions["mend"], label: string) =>
    decide((now) => ({ ...now, mend: next(now.mend) }), label);
  const member =
    structure?.members.findIndex((one) => part >= one.first_part && part < one.first_part + one.parts) ?? 0;
  const scale = Math.hypot(...(result?.sources[Math.max(0, member)]?.matrix.slice(0, 3) ?? [1, 0, 0]));
  const shells = study?.shells ?? [];
  const entry = (shell: (typeof shells)[number], number: number) => ({
    part: chosen.ref,
    at: shell.at,
    name: `${chosen.name || chosen.label} shell ${number}`,
    move: [0, 0, 0],
  });
  const isShell = chosen.ref.includes(" / shell ");
  // Shells that were taken out stand in the order of the decisions, behind the structure's own parts and pieces.
  const place = result ? part - result.base_parts - result.cut_parts.length : -1;
  const moving = isShell ? ordered(mend.apart, structure)[place] : joined >= 0 ? mend.joined[joined] : undefined;
  const move = (axis: number, to: number) =>
    change((now) => {
      const set = <E extends { move: number[] }>(one: E) => ({
        ...one,
        move: one.move.map((value, at) => (at === axis ? to : value)),
      });
      return isShell
        ? { ...now, apart: now.apart.map((one) => (same(one, moving) ? set(one) : one)) }
        : { ...now, joined: now.joined.map((one, at) => (at === joined ? set(one) : one)) };
    }, `Moved ${chosen.label}`);
  return (
    <section
      aria-label="Shells"
      className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-dashed border-line pt-2"
    >
      <dl>
        <Fact name="Watertight">
          {before == null ? "" : `${before ? "yes" : "no"} before, `}
          <b className={made?.watertight ? "text-sea" : "text-signal"}>
            {made?.watertight == null ? "…" : made.watertight ? "yes" : "no"}
          </b>
        </Fact>
        {made?.watertight && made.volume != null && (
          <Fact name="Volume">
            {unmended?.volume != null && !isShell && !out.length && changed(unmended.volume * scale ** 3, made.volume)}
            {cubic(made.volume)}
          </Fact>
        )}
        <Fact name="Loose shells">{made?.triangles == null ? "…" : count(made.shells)}</Fact>
        {Object.keys(made?.bad_normals ?? {}).length > 0 && (
          <Fact name="Normals as they came">
            {Object.entries(made!.bad_normals)
              .map(([kind, vertices]) => `${count(vertices)} ${BAD[kind] ?? kind}`)
              .join(", ")}
          </Fact>
        )}
      </dl>
      {shells.length > 1 && !isShell && (
        <>
          <ol className="grid grid-cols-[minmax(0,1fr)] text-[12.5px]">
            {shells.slice(0, LISTED).map((shell, at) => (
              <li key={shell.at.join()} className="flex items-center gap-2 border-t border-cloth-deep tabular-nums">
                <span className="min-w-0 flex-1 truncate">
                  {at + 1}. {box(shell.low.map((low, axis) => (shell.high[axis]! - low) * scale))}
                </span>
                <span className="text-ink-soft">{plural(shell.triangles, "triangle")}</span>
                <Button
                  quiet
                  className="!px-1"
                  aria-label={`Take out shell ${at + 1}`}
                  onClick={() =>
                    change(
                      (now) => ({ ...now, apart: [...now.apart, entry(shell, at + 1)] }),
                      `Took a shell out of ${chosen.label}`,
                    )
                  }
                >
                  Take out
                </Button>
              </li>
            ))}
          </ol>
          <div className="flex items-center gap-2">
            <Button
              onClick={() =>
                change(
                  (now) => ({
                    ...now,
                    apart: [...now.apart, ...shells.slice(1).map((shell, at) => entry(shell, at + 2))].slice(0, 1000),
                  }),
                  `Split ${chosen.label} into ${plural(shells.length, "part")}`,
                )
              }
            >
              Split into {plural(shells.length, "part")}
            </Button>
            {shells.length > LISTED && (
              <span className="text-[12.5px] text-ink-soft">and {count(shells.length - LISTED)} smaller</span>
            )}
          </div>
        </>
      )}
      {out.length > 0 && (
        <Button
          className="justify-self-start"
          onClick={() =>
            change(
              (now) => ({ ...now, apart: now.apart.filter((one) => one.part !== chosen.ref) }),
              `Put ${chosen.label} together again`,
            )
          }
        >
          Put {plural(out.length, "shell")} back
        </Button>
      )}
      {moving && (
        <div
          role="group"
          aria-label="Moved by"
          className="grid grid-cols-[auto_repeat(3,minmax(0,1fr))] items-center gap-1.5"
        >
          <span className="text-ink-soft">Moved by</span>
          {["X", "Y", "Z"].map((axis, at) => (
            <MoveField
              key={axis}
              label={`Moved along ${axis}`}
              axis={axis}
              value={moving.move[at]!}
              onSet={(to) => move(at, to)}
            />
          ))}
        </div>
      )}
      {joined >= 0 && (
        <Button
          className="justify-self-start"
          onClick={() =>
            change(
              (now) => ({ ...now, joined: now.joined.filter((_, at) => at !== joined) }),
              `Took ${chosen.label} apart`,
            )
          }
        >
          Take apart again
        </Button>
      )}
    </section>
  );
}

type Apart = Decisions["mend"]["apart"][number];

/** Whether two entries are for one shell. */
const same = (one: Apart, two: object | undefined) =>
  !!two && "at" in two && one.at.join() === (two as Apart).at.join();

/** Shells taken out in the order in which they stand: by the parts they came from, as the decisions name them. */
function ordered(apart: readonly Apart[], structure: Structure | undefined): Apart[] {
  const number = new Map(structure?.parts.map((part, index) => [part.ref, index]));
  const known = apart.filter((entry) => number.has(entry.part));
  return known.toSorted((one, two) => number.get(one.part)! - number.get(two.part)!);
}

/** Several chosen parts of one source become one part. */
export function Join({ chosen }: { chosen: Part[] }) {
  const { decide, structure } = useBench();
  const source = (part: Part) => {
    const at = structure?.parts.indexOf(part) ?? -1;
    return structure?.members.findIndex((one) => at >= one.first_part && at < one.first_part + one.parts);
  };
  const apart = new Set(chosen.map(source)).size > 1;
  return (
    <div className="flex items-center gap-2 border-t border-dashed border-line pt-2">
      <Button
        disabled={apart}
        onClick={() =>
          decide(
            (now) => ({
              ...now,
              mend: {
                ...now.mend,
                joined: [
                  ...now.mend.joined,
                  { parts: chosen.map(({ ref }) => ref), name: chosen[0]!.name || chosen[0]!.label, move: [0, 0, 0] },
                ],
              },
            }),
            `Joined ${plural(chosen.length, "part")}`,
          )
        }
      >
        Join {plural(chosen.length, "part")} into one
      </Button>
      {apart && <span className="text-[12.5px] text-ink-soft">of several sources: those cannot be joined</span>}
    </div>
  );
}
