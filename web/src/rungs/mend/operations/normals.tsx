import type { Views } from "../../../api/client";
import { OneOf } from "../../../ui/controls";
import { numbers } from "../../../api/read";
import { LogField } from "../../../ui/fields";
import { plural } from "../../../ui/format";
import type { Operation } from "../../../bench/operations/operation";

/** Shading over the edges between triangles; switched off, it is the surfaces' own. */
export const normals: Operation<Views["Normals"]> = {
  does: "normals",
  name: "Normals anew",
  hint: "smooth or sharp",
  start: (ranges) => ({ does: "normals", kind: "crease", degrees: ranges["normals.degrees"]!.start }),
  Control: ({ step, ranges, onChange }) => (
    <>
      <OneOf
        label="Normals"
        value={step.kind ?? "crease"}
        options={[
          { value: "crease", label: "up to an angle" },
          { value: "weighted", label: "led by flats" },
          { value: "flat", label: "flat" },
        ]}
        onChange={(kind) => onChange({ ...step, kind }, false)}
      />
      {step.kind !== "flat" && (
        <LogField
          label="Crease"
          value={step.degrees ?? ranges["normals.degrees"]!.start}
          range={ranges["normals.degrees"]!}
          show={(value) => `${Number(value.toPrecision(3))}°`}
          read={numbers("°|deg")}
          onMove={(degrees) => onChange({ ...step, degrees }, true)}
          onSet={(degrees) => onChange({ ...step, degrees }, false)}
        />
      )}
    </>
  ),
  effect: (amount) => `${plural(amount, "sharp edge")}, no triangle more`,
  said: (step) =>
    step.kind === "flat" ? "flat" : `${step.kind === "weighted" ? "led by flats" : "smooth"} up to ${step.degrees}°`,
};
