import { useJob } from "../api/job";
import { Verdict } from "../rungs/ship/Ship";
import { Link } from "../ui/address";
import { bytes, count, metric, plural } from "../ui/format";
import { Mark } from "../ui/Mark";
import { Title } from "../ui/Title";

const show = (value: unknown): string =>
  Array.isArray(value)
    ? value.join(" · ")
    : value === true
      ? "yes"
      : value === false
        ? "no"
        : typeof value === "number"
          ? value.toLocaleString("en-US", { maximumFractionDigits: 6 })
          : String(value);

/** One delivery: its files, and every check of its receipt. */
export function DeliveryPage({ jobId, deliveryId }: { jobId: number; deliveryId: number }) {
  const job = useJob(jobId);
  const item = job.data?.deliveries.find((delivery) => delivery.id === deliveryId);
  return (
    <div className="mx-auto max-w-[900px] px-8 py-6">
      <header className="flex items-center gap-3 pb-6">
        <Link href="/" aria-label="All jobs">
          <Mark />
        </Link>
        <Title className="text-[20px]">
          {job.data?.name ?? "Delivery"}{" "}
          <span className="font-sans text-[14px] font-normal text-ink-soft">delivery {deliveryId}</span>
        </Title>
        <Link href={`/jobs/${jobId}`} className="ml-auto underline decoration-line underline-offset-4">
          Back to the bench
        </Link>
      </header>
      <main>
        {!item && (
          <p className="text-ink-soft">
            {job.isPending ? "Looking for the delivery…" : "There is no such delivery in this job."}
          </p>
        )}
        {item && (
          <>
            <section className="flex items-baseline gap-6 rounded-lg border border-line bg-paper px-6 py-4">
              <p className="font-name text-[18px] font-semibold">
                {String(item.target.format).toUpperCase()} · <Verdict item={item} />
              </p>
              {item.bundle && (
                <a
                  href={`/api/deliveries/${item.id}/bundle`}
                  download
                  className="ml-auto rounded-md bg-ink px-4 py-2 font-semibold text-white"
                >
                  Download ZIP, {bytes(item.bundle_bytes)}
                </a>
              )}
            </section>
            {item.message && (
              <p role="alert" className="pt-3 text-signal">
                {item.message}
              </p>
            )}
            <h2 className="font-name pt-7 pb-1 text-[16px] font-semibold">Files</h2>
            <ul>
              {item.files.map((file) => (
                <li key={String(file.name)} className="flex justify-between border-b border-cloth-deep py-1.5">
                  <span>{String(file.name)}</span>
                  <span>{bytes(Number(file.bytes))}</span>
                </li>
              ))}
            </ul>
            {item.receipt && (
              <>
                <h2 className="font-name pt-7 pb-1 text-[16px] font-semibold">Receipt</h2>
                <p className="pb-2 text-ink-soft">
                  The files were read back by a library that shares no code with ours, and held against what was meant.
                </p>
                <table className="w-full border-collapse">
                  <thead>
                    <tr className="border-b border-line text-left text-[12px] text-ink-soft">
                      <th className="py-1 pr-4 font-medium">Check</th>
                      <th className="pr-4 font-medium">Meant</th>
                      <th className="pr-4 font-medium">Found</th>
                      <th className="font-medium">Holds</th>
                    </tr>
                  </thead>
                  <tbody>
                    {item.receipt.checks.map((check) => {
                      const same = show(check.expected) === show(check.found);
                      return (
                        <tr
                          key={check.name}
                          className={`border-b border-cloth-deep align-top ${check.ok ? "" : "bg-signal-pale"}`}
                        >
                          <th scope="row" className="py-1.5 pr-4 text-left font-semibold">
                            {check.name}
                          </th>
                          <td className="max-w-[280px] py-1.5 pr-4 break-words">{show(check.expected)}</td>
                          <td className="max-w-[280px] py-1.5 pr-4 break-words">
                            {same && show(check.found).length > 40 ? "the same" : show(check.found)}
                          </td>
                          <td className={`py-1.5 font-semibold ${check.ok ? "text-sea" : "text-signal"}`}>
                            {check.ok ? "yes" : "no"}
                          </td>
                        </tr>
                      );
                    })}
                  </tbody>
                </table>
                <Beside told={item.receipt.told as Told} />
              </>
            )}
          </>
        )}
      </main>
    </div>
  );
}

interface Told {
  meshes?: Record<string, number>;
  offset_m?: number[];
  single_precision_mm?: Record<string, number>;
  trimmed?: Record<string, number | string>;
  facets?: Record<string, number | string>;
  beside?: { level: string; triangles: number; files: { name: string; bytes: number }[] }[];
  measurements?: { of: string; is: number | number[] | string; should_be: number | null; was: number | null }[];
}

/** What stands beside the checks: the offset and what it saves, and every measurement. */
function Beside({ told }: { told: Told }) {
  const { offset_m: offset, single_precision_mm: rounding, measurements, meshes, trimmed, facets, beside } = told;
  if (!offset && !measurements && !meshes) return null;
  return (
    <>
      {offset && (
        <p className="pt-4">
          Offset kept, to be added to have the coordinates as received: <b>{offset.join(", ")} m</b> (X, Y, Z up).{" "}
          {rounding && (
            <span className="text-ink-soft">
              Single precision rounds by{" "}
              {Object.entries(rounding)
                .map(([where, mm]) => `${metric(mm / 1000)} ${where}`)
                .join(", ")}
              .
            </span>
          )}
        </p>
      )}
      {meshes && (
        <>
          <h2 className="font-name pt-7 pb-1 text-[16px] font-semibold">Meshes, each part once</h2>
          <ul>
            <li className="flex justify-between border-b border-cloth-deep py-1.5">
              <span>watertight</span>
              <span>
                {count(meshes.watertight ?? 0)} of {plural(meshes.parts ?? 0, "part")}
              </span>
            </li>
            {Object.entries(meshes)
              .filter(([name]) => name !== "parts" && name !== "watertight")
              .map(([name, number]) => (
                <li key={name} className="flex justify-between border-b border-cloth-deep py-1.5">
                  <span>{name}</span>
                  <span>{count(number)}</span>
                </li>
              ))}
          </ul>
        </>
      )}
      {facets && (
        <p className="pt-4">
          Facets lie within <b>{metric(Number(facets["largest distance, m"]))}</b> of the exact shapes ({facets.of}),
          measured both ways at {count(Number(facets.points))} points
          {facets["bound, m"] !== undefined && <>, nowhere more than {metric(Number(facets["bound, m"]))}</>}.
        </p>
      )}
      {trimmed && (
        <p className="pt-4">
          Made lighter: {plural(Number(trimmed.parts), "part")}, {count(Number(trimmed["triangles before"]))} triangles
          before and <b>{count(Number(trimmed.triangles))}</b> now; off by at most{" "}
          <b>{metric(Number(trimmed["largest deviation, m"]))}</b> ({trimmed.of}), measured both ways.
        </p>
      )}
      {beside?.map((other) => (
        <p key={other.level} className="pt-4">
          Beside it stands the {other.level} level of {count(other.triangles)} triangles:{" "}
          {other.files.map((file) => `${file.name}, ${bytes(file.bytes)}`).join("; ")}.
        </p>
      ))}
      {measurements && (
        <>
          <h2 className="font-name pt-7 pb-1 text-[16px] font-semibold">Measurements</h2>
          <ul>
            {measurements.map((item, at) => (
              <li key={at} className="flex justify-between border-b border-cloth-deep py-1.5">
                <span>{item.of.replace(/^measured /, "")}</span>
                <span>
                  {Array.isArray(item.is)
                    ? item.is.map((side) => Number(side.toPrecision(7))).join(" × ")
                    : show(item.is)}
                  {item.should_be != null && ` · on the drawing ${show(item.should_be)}`}
                  {item.was != null && ` · it was ${show(item.was)}`}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
