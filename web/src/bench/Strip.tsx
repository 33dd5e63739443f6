import { goTo, useBench } from "./bench";
import { History } from "./History";
import { Link } from "../ui/address";
import { Button, Progress } from "../ui/controls";
import { box, boxImperial, count, plural } from "../ui/format";
import { Mark } from "../ui/Mark";
import { Title } from "../ui/Title";
import { Bar, GAUGES, limited } from "../rungs/trim/Gauges";

/** The top of the bench: the job, its size, what it weighs, what is open, and the way back and on. */
export function Strip() {
  const bench = useBench();
  const { job, result } = bench;
  // The last meshes are there before they are counted here.
  const working = job.climb.state === "working" || result?.rungs.Facet?.state === "busy";
  const behind = working || bench.pending > 0 || result?.decisions_id !== job.decisions_id;
  const loose = result?.loose_parts.length ?? 0;
  return (
    <header className="col-span-2 flex items-center gap-5 border-b border-line px-4">
      <Link href="/" aria-label="All jobs" className="flex items-center rounded">
        <Mark />
      </Link>
      <Title className="max-w-[240px] truncate text-[17px]" title={job.name}>
        {job.name}
      </Title>
      {result && (
        <>
          <div className="leading-[1.15]">
            <b className="block text-[15px] font-semibold">{box(result.size)}</b>
            <span className="text-[12px] text-ink-soft">{boxImperial(result.size)}</span>
          </div>
          <div className="w-[150px] leading-[1.15]" aria-live="polite" aria-busy={behind}>
            <b className="text-[15px] font-semibold">{count(result.triangles)}</b>{" "}
            <span className="text-[12px] text-ink-soft">triangles</span>
            {working ? (
              <div className="pt-1">
                <Progress share={job.climb.done / Math.max(1, job.climb.total)} label="Meshing" />
              </div>
            ) : (
              <span className="block text-[12px] text-ink-soft">
                {result.triangles_before === null
                  ? `${count(result.vertices)} vertices`
                  : `${count(result.triangles_before)} before`}
              </span>
            )}
          </div>
          <button
            type="button"
            disabled={!loose}
            onClick={() => {
              bench.setView({ open: "Sort", look: "colours" });
              goTo(bench, result.loose_parts);
            }}
            className="rounded text-left leading-[1.15]"
          >
            <b className={`block text-[15px] font-semibold ${loose ? "text-signal" : "text-sea"}`}>{count(loose)}</b>
            <span className="text-[12px] text-ink-soft">{loose === 1 ? "loose end" : "loose ends"}</span>
          </button>
          <Allowance />
        </>
      )}
      <div className="ml-auto flex items-center gap-2">
        {!bench.connected ? (
          <span role="alert" className="max-w-56 text-[12.5px] leading-tight text-signal">
            No connection. What you see may be old; it goes on by itself.
          </span>
        ) : (
          bench.pending > 0 && (
            <span role="status" className="text-[12.5px] text-ink-soft">
              deciding…
            </span>
          )
        )}
        {job.climb.state === "working" && (
          <Button onClick={() => bench.act("cancel")}>
            Stop{" "}
            <span className="font-normal">{`${count(job.climb.done)} of ${plural(job.climb.total, "mesh", "meshes")}`}</span>
          </Button>
        )}
        {job.climb.state === "cancelled" && <Button onClick={() => bench.act("resume")}>Go on meshing</Button>}
        {job.climb.message && job.climb.state === "failed" && (
          <span role="alert" className="max-w-72 text-[12.5px] text-signal">
            {job.climb.message}
          </span>
        )}
        {(job.climb.failed > 0 || job.climb.state === "failed") && (
          <Button onClick={() => bench.act("resume")} title="Make again what could not be made">
            {job.climb.failed ? `${plural(job.climb.failed, "mesh", "meshes")} failed: try again` : "Try again"}
          </Button>
        )}
        <Button disabled={!job.can_undo} onClick={() => bench.act("undo")}>
          Undo
        </Button>
        <Button disabled={!job.can_redo} onClick={() => bench.act("redo")}>
          Redo
        </Button>
        <History />
        <Button main className="px-3 py-1.5" disabled={!result} onClick={() => bench.setView({ open: "Ship" })}>
          Ship…
        </Button>
      </div>
    </header>
  );
}

/** The gauge that is nearest to its limit, or farthest over it, where the receiver has any. */
function Allowance() {
  const { decisions, result, setView } = useBench();
  const costs = result?.trim.costs;
  const rows = limited(decisions.trim.limit).map(({ gauge, most }) => ({
    gauge,
    most,
    used: costs?.[gauge] ?? 0,
  }));
  const worst = rows.sort((one, two) => two.used / two.most - one.used / one.most)[0];
  if (!worst) return null;
  const over = worst.used > worst.most;
  const { name, say } = GAUGES[worst.gauge];
  const target = decisions.trim.limit?.target || "the receiver";
  return (
    <button
      type="button"
      title={`${name}: ${say(worst.used)} of ${say(worst.most)} for ${target}`}
      onClick={() => setView({ open: "Trim" })}
      className="w-[112px] rounded text-left leading-[1.15]"
    >
      <b className={`block truncate text-[15px] font-semibold ${over ? "text-signal" : "text-sea"}`}>
        {over ? `${say(worst.used - worst.most)} over` : `${Math.round((100 * worst.used) / worst.most)} % used`}
      </b>
      <span className="block pt-0.5">
        <Bar share={worst.used / worst.most} label={`${name} for ${target}`} />
      </span>
    </button>
  );
}
