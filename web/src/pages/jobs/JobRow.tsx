import { AlertDialog } from "radix-ui";
import { useState } from "react";

import type { JobLine } from "../../api/client";
import { Link } from "../../ui/address";
import { Button } from "../../ui/controls";
import { bytes, moment, plural } from "../../ui/format";
import { Mark } from "../../ui/Mark";

/** One job: how it looks, what it is made of, what is going on, and its name, which can be changed here. */
export function JobRow({
  job,
  onRename,
  onRemove,
}: {
  job: JobLine;
  onRename: (name: string) => void;
  onRemove: () => void;
}) {
  const [name, setName] = useState<string | null>(null);
  const settle = () => {
    if (name?.trim() && name.trim() !== job.name) onRename(name.trim());
    setName(null);
  };
  return (
    <li className="grid grid-cols-[120px_minmax(0,1fr)_150px_130px_auto] items-center gap-x-5 border-t border-line py-2 hover:bg-paper">
      <Link href={`/jobs/${job.id}`} tabIndex={-1} aria-hidden className="block">
        <Picture job={job} />
      </Link>
      <div className="min-w-0">
        {name === null ? (
          <Link
            href={`/jobs/${job.id}`}
            className="font-name block truncate text-[16px] font-semibold hover:underline"
            title={job.name}
          >
            {job.name}
          </Link>
        ) : (
          <input
            autoFocus
            aria-label={`New name of ${job.name}`}
            value={name}
            maxLength={200}
            onChange={(event) => setName(event.target.value)}
            onFocus={(event) => event.target.select()}
            onBlur={settle}
            onKeyDown={(event) => {
              if (event.key === "Enter") settle();
              if (event.key === "Escape") setName(null);
            }}
            className="font-name w-full rounded-md border border-field bg-white px-1.5 text-[16px] font-semibold"
          />
        )}
        <p className="truncate text-[13px] text-ink-soft" title={job.files.join(", ")}>
          {job.files.slice(0, 2).join(", ")}
          {job.files.length > 2 && ` and ${job.files.length - 2} more`}
        </p>
        <p className="text-[12.5px] text-ink-soft">begun {moment(job.created)}</p>
      </div>
      <p className="text-right text-[13px] leading-snug">
        {job.parts === null ? "–" : plural(job.parts, "part")}
        <span className="block text-ink-soft">
          {job.placements === null ? "" : plural(job.placements, "placement")}
        </span>
        <span className="block text-ink-soft">{bytes(job.bytes)}</span>
      </p>
      <p className="text-[13px]">
        <Standing job={job} />
      </p>
      <div className="flex flex-col items-end">
        <Button
          quiet
          className="!py-0.5 font-normal"
          aria-label={`Rename ${job.name}`}
          onClick={() => setName(job.name)}
        >
          Rename
        </Button>
        <Remove job={job} onRemove={onRemove} />
      </div>
    </li>
  );
}

const Picture = ({ job }: { job: JobLine }) =>
  job.pictured ? (
    <img
      src={`/api/jobs/${job.id}/picture?made=${encodeURIComponent(job.pictured)}`}
      alt=""
      width={120}
      height={75}
      className="stage-ground h-[75px] w-[120px] rounded border border-line object-cover"
    />
  ) : (
    <span className="stage-ground grid h-[75px] w-[120px] place-content-center rounded border border-line opacity-60">
      <Mark />
    </span>
  );

function Standing({ job }: { job: JobLine }) {
  if (job.state === "refused") return <b className="font-semibold text-signal">source refused</b>;
  if (job.state === "cancelled") return <span className="text-ink-soft">reading stopped</span>;
  if (job.state !== "ready") return <Busy>reading…</Busy>;
  if (job.meshing) return <Busy>meshing…</Busy>;
  if (job.shipped === "busy") return <Busy>writing the delivery…</Busy>;
  if (job.shipped === "ok") return <b className="font-semibold text-sea">receipt in order</b>;
  if (job.shipped === "failed") return <b className="font-semibold text-signal">last delivery failed</b>;
  return <span className="text-ink-soft">not shipped yet</span>;
}

const Busy = ({ children }: { children: string }) => (
  <span className="flex items-center gap-1.5">
    <i aria-hidden className="size-2 motion-safe:animate-pulse rounded-full bg-sea" />
    {children}
  </span>
);

function Remove({ job, onRemove }: { job: JobLine; onRemove: () => void }) {
  return (
    <AlertDialog.Root>
      <AlertDialog.Trigger asChild>
        <Button quiet className="!py-0.5 font-normal" aria-label={`Remove ${job.name}`}>
          Remove
        </Button>
      </AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <AlertDialog.Content className="fixed top-1/3 left-1/2 z-50 w-[420px] -translate-x-1/2 rounded-lg border border-line bg-paper p-5 shadow-xl">
          <AlertDialog.Title className="font-name text-[17px] font-semibold">Remove “{job.name}”?</AlertDialog.Title>
          <AlertDialog.Description className="pt-1 pb-4 text-ink-soft">
            Its decisions and deliveries go with it. This cannot be taken back.
          </AlertDialog.Description>
          <div className="flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Keep it</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button className="border-signal text-signal" onClick={onRemove}>
                Remove it
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
