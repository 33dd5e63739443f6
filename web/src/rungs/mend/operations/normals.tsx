import type { Views } from "../../../api/client";
import { OneOf } from "../../../ui/controls";
import { LogField } from "../../../ui/fields";
import { plural } from "../../../ui/format";
import type { Operation } from "./operation";

/** Shading over the edges between triangles; switched off, it is the surfaces' own. */
export const normals: Operation<Views["Normals"]> = {
  does: "normals",
  name: "Normals anew",
  start: { does: "normals", kind: "crease", degrees: 40 },
  Control: ({ step, onChange }) => (
    <>
      <OneOf
        label="Normals"
        value={step.kind ?? "crease"}
        options={[
          { value: "crease", label: "smooth up to an angle" },
          { value: "flat", label: "flat" },
        ]}
        onChange={(kind) => onChange({ ...step, kind }, false)}
      />
      {step.kind !== "flat" && (
        <LogField
          label="Crease"
          value={step.degrees ?? 40}
          least={1}
          most={180}
          show={(value) => `${Number(value.toPrecision(3))}°`}
          read={(text) => (/^\s*[\d.]+\s*°?\s*$/.test(text) ? parseFloat(text) : null)}
          onMove={(degrees) => onChange({ ...step, degrees }, true)}
          onSet={(degrees) => onChange({ ...step, degrees }, false)}
        />
      )}
    </>
  ),
  effect: (amount) => plural(amount, "sharp edge"),
};
