import { type DragEvent, useRef, useState } from "react";

import { api, needJob, Problem, uploadAll } from "../../api/client";
import { droppedFiles } from "../../api/dropped";
import { go } from "../../ui/address";
import { Button, Progress } from "../../ui/controls";

/** Where files for a new job are dropped or chosen. */
export function DropPlace() {
  const input = useRef<HTMLInputElement>(null);
  const stop = useRef<AbortController | null>(null);
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<{ name: string; share: number } | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);

  const take = async (list: FileList | File[] | null) => {
    const files = [...(list ?? [])];
    if (!files.length || sending) return;
    setProblem(null);
    stop.current = new AbortController();
    try {
      const sent = await uploadAll(files, (name, share) => setSending({ name, share }), stop.current.signal);
      const name = files[0]!.name.replace(/\.[^.]+$/, "").replace(/[_-]+/g, " ");
      const job = needJob(await api.POST("/api/jobs", { body: { name: name || "Untitled", files: sent } }));
      go(`/jobs/${job.id}`);
    } catch (error) {
      setProblem(error instanceof Problem ? error : new Problem("The upload failed.", "Try again."));
    } finally {
      setSending(null);
    }
  };

  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void droppedFiles(event.dataTransfer).then(take);
  };

  return (
    <section
      aria-label="New job"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
      className={`flex items-center gap-6 rounded-lg border-2 border-dashed px-7 py-7 ${over ? "border-sea bg-sea-pale" : "border-line bg-paper"}`}
    >
      <div className="min-w-0 flex-1">
        <p className="font-name text-[18px] font-semibold">
          {sending ? `Taking in ${sending.name}` : "Drop models, buildings, meshes, drawings and vector art here"}
        </p>
        {sending ? (
          <div className="pt-2">
            <Progress share={sending.share} label="Upload" />
          </div>
        ) : (
          <p className="text-ink-soft">
            STEP, IGES, BREP; IFC; OBJ, glTF, USD, COLLADA, 3MF, X3D, VRML, AMF, STL, PLY, OFF; DXF and SVG. Several at
            once, or a ZIP of them, make one job; files that belong together find each other. Each is kept byte for
            byte.
          </p>
        )}
        {problem && (
          <p role="alert" className="pt-1 text-signal">
            {problem.message} {problem.remedy}
          </p>
        )}
      </div>
      <input
        ref={input}
        type="file"
        multiple
        className="sr-only"
        aria-label="Files for a new job"
        tabIndex={-1}
        onChange={(event) => void take(event.target.files)}
      />
      {sending ? (
        <Button onClick={() => stop.current?.abort()}>Stop</Button>
      ) : (
        <Button main className="px-4 py-2" onClick={() => input.current?.click()}>
          Choose files…
        </Button>
      )}
    </section>
  );
}
