import type { ReactNode } from "react";

import { Button, Progress } from "../../ui/controls";
import { count } from "../../ui/format";

const SAID: Record<string, string> = {
  meshing: "Waiting for the triangles that are being made",
  looking: "Looking from the lookouts",
};

/** Something that is worked out on wish: how far it is, what came of it, and how it is put in force or left. */
export function Worked({
  answer,
  error,
  asked,
  onStart,
  onStop,
  onUse,
  start,
  use,
  children,
}: {
  answer: { state: string; measured?: number; wanted?: number } | undefined;
  error: Error | null;
  asked: boolean;
  onStart: () => void;
  onStop: () => void;
  onUse: () => void;
  start: string;
  use: string;
  children: ReactNode;
}) {
  if (!asked || error)
    return (
      <div className="grid gap-1.5">
        {error && (
          <p role="alert" className="text-[12.5px] text-signal">
            {error.message}
          </p>
        )}
        <Button className="justify-self-start" onClick={onStart}>
          {start}
        </Button>
      </div>
    );
  if (answer?.state !== "done") {
    const { measured = 0, wanted = 0 } = answer ?? {};
    const words =
      answer?.state === "measuring"
        ? `Measured ${count(measured)} of ${count(wanted)} meshes`
        : SAID[answer?.state ?? ""];
    return (
      <div className="grid gap-1.5">
        <Progress share={wanted ? measured / wanted : null} label={words ?? "Asking"} />
        <Button className="justify-self-start" onClick={onStop}>
          Stop
        </Button>
      </div>
    );
  }
  return (
    <div className="grid gap-1.5">
      {children}
      <div className="flex gap-1.5">
        <Button main onClick={onUse}>
          {use}
        </Button>
        <Button onClick={onStop}>Leave it</Button>
      </div>
    </div>
  );
}
