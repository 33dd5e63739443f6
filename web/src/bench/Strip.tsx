import { goTo, useBench } from "./bench";
import { History } from "./History";
import { Link } from "../ui/address";
import { Button, Progress } from "../ui/controls";
import { box, boxImperial, count, plural } from "../ui/format";
import { Mark } from "../ui/Mark";
import { Title } from "../ui/Title";

/** The top of the bench: the job, its size, what it weighs, what is open, and the way back and on. */
export function Strip() {
  const bench = useBench();
  const { job, result } = bench;
  const working = job.climb.state === "working";
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
          <div className="w-[150px] leading-[1.15]" aria-live="polite">
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
        {working && (
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
