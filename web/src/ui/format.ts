/** Numbers for people; every one with its unit. */

const whole = new Intl.NumberFormat("en-US", { maximumFractionDigits: 0 });

export const count = (value: number) => whole.format(value);

const digits = (value: number) => {
  const size = Math.abs(value);
  return size < 10 ? value.toFixed(2) : size < 100 ? value.toFixed(1) : whole.format(value);
};

/** A length in metres, in the metric unit that suits it. */
export function metric(metres: number): string {
  const size = Math.abs(metres);
  if (size > 0 && size < 1e-4) return `${digits(metres * 1e6)} µm`;
  if (size < 1) return `${digits(metres * 1e3)} mm`;
  if (size < 1e4) return `${digits(metres)} m`;
  return `${digits(metres / 1e3)} km`;
}

/** A round length without figures behind the point: `20 m`, `100 mm`. */
export const round = (metres: number) => metric(metres).replace(/\.0+ /, " ");

/** Feet and inches to the nearest sixteenth; thousandths of an inch below one inch. */
export function imperial(metres: number): string {
  const inches = metres / 0.0254;
  if (Math.abs(inches) < 1) return `${inches.toFixed(3)}″`;
  const sixteenths = Math.round(inches * 16);
  const feet = Math.floor(sixteenths / 192);
  const rest = sixteenths - feet * 192;
  const inch = Math.floor(rest / 16);
  let top = rest % 16;
  let bottom = 16;
  while (top && top % 2 === 0) {
    top /= 2;
    bottom /= 2;
  }
  return `${feet ? `${count(feet)}′ ` : ""}${inch}${top ? ` ${top}/${bottom}` : ""}″`;
}

/** Three sides that share one metric unit. */
export function box(size: number[]): string {
  const largest = Math.max(...size);
  const [factor, unit] = largest < 1 ? [1e3, "mm"] : largest < 1e4 ? [1, "m"] : [1e-3, "km"];
  return `${size.map((side) => digits(side * factor)).join(" × ")} ${unit}`;
}

/** Three sides in feet and inches; a line breaks between them, not within one. */
export const boxImperial = (size: number[]) =>
  size.map((side) => imperial(side).replaceAll(" ", "\u00a0")).join("\u00a0× ");

export function bytes(value: number): string {
  if (value < 1e3) return `${value} B`;
  if (value < 1e6) return `${(value / 1e3).toFixed(0)} kB`;
  return value < 1e9 ? `${(value / 1e6).toFixed(1)} MB` : `${(value / 1e9).toFixed(2)} GB`;
}

/** When something happened: the hour today, else the day too. */
export function moment(when: string): string {
  const at = new Date(when);
  const hour = at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  if (at.toDateString() === new Date().toDateString()) return hour;
  return `${at.toLocaleDateString("en-GB", { day: "numeric", month: "short" })} ${hour}`;
}

export const plural = (value: number, one: string, many = `${one}s`) => `${count(value)} ${value === 1 ? one : many}`;

/** A length in a picture. */
export const pixels = (value: number) => (value < 0.01 ? "under 0.01 px" : `${Number(value.toPrecision(2))} px`);
