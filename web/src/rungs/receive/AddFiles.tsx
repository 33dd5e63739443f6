import { useRef, useState } from "react";

import { Problem, type Uploaded, uploadAll } from "../../api/client";
import { Button, Progress } from "../../ui/controls";

/** A button that takes files, sends them, and hands over what was sent. */
export function AddFiles({
  label,
  hint,
  quiet,
  onSent,
}: {
  label: string;
  hint: string;
  quiet?: boolean;
  onSent: (files: Uploaded[]) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const stop = useRef<AbortController | null>(null);
  const [sending, setSending] = useState<{ name: string; share: number } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const send = async (list: FileList | null) => {
    const files = [...(list ?? [])];
    if (!files.length) return;
    setProblem(null);
    stop.current = new AbortController();
    try {
      onSent(await uploadAll(files, (name, share) => setSending({ name, share }), stop.current.signal));
    } catch (error) {
      setProblem(error instanceof Problem ? `${error.message} ${error.remedy}` : "The upload failed. Try again.");
    } finally {
      setSending(null);
      if (input.current) input.current.value = "";
    }
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        multiple
        tabIndex={-1}
        aria-label={hint}
        className="sr-only"
        onChange={(event) => void send(event.target.files)}
      />
      {sending ? (
        <span className="grid grid-cols-[1fr_auto] items-center gap-2">
          <span className="min-w-0">
            <span className="block truncate text-[12.5px] text-ink-soft">Taking in {sending.name}</span>
            <Progress share={sending.share} label="Upload" />
          </span>
          <Button onClick={() => stop.current?.abort()}>Stop</Button>
        </span>
      ) : (
        <Button quiet={quiet} className={quiet ? "-ml-2" : ""} onClick={() => input.current?.click()}>
          {label}
        </Button>
      )}
      {problem && (
        <p role="alert" className="text-[12.5px] text-signal">
          {problem}
        </p>
      )}
    </>
  );
}
