import {
  BoxGeometry,
  type BufferGeometry,
  CapsuleGeometry,
  Group,
  Mesh,
  MeshBasicMaterial,
  SphereGeometry,
} from "three";

/** Height of the person beside the model, in metres. */
export const YARDSTICK = 1.75;

/** Metres between the lines of the ground: 1, 2 or 5 times a power of ten, about a third of the model's half. */
export function gridStep(size: number[]): number {
  const rough = Math.max(...size, 2e-4) / 6;
  const power = 10 ** Math.floor(Math.log10(rough));
  return [1, 2, 5, 10].map((factor) => factor * power).find((step) => step >= rough)!;
}

/** A person so tall, plain as a pictogram, with a staff marked every seventh: a quarter metre of 1.75 m. */
export function figure(tall = YARDSTICK): Group {
  const skin = new MeshBasicMaterial({ color: "#a2743a" });
  const ink = new MeshBasicMaterial({ color: "#1d2730" });
  const person = new Group();
  const add = (geometry: BufferGeometry, x: number, z: number, material = skin) => {
    const mesh = new Mesh(geometry, material);
    mesh.position.set(x, 0, z);
    person.add(mesh);
  };
  const upright = (radius: number, length: number) => new CapsuleGeometry(radius, length, 6, 14).rotateX(Math.PI / 2);
  add(new SphereGeometry(0.11, 20, 14), 0, 1.64);
  add(upright(0.17, 0.36), 0, 1.16);
  add(upright(0.075, 0.62), -0.09, 0.385);
  add(upright(0.075, 0.62), 0.09, 0.385);
  add(new BoxGeometry(0.012, 0.012, YARDSTICK), 0.36, YARDSTICK / 2, ink);
  for (let mark = 0; mark <= 7; mark++) add(new BoxGeometry(mark % 4 ? 0.06 : 0.11, 0.012, 0.012), 0.4, mark / 4, ink);
  person.scale.setScalar(tall / YARDSTICK);
  return person;
}
