import { facing } from "./facing";
import { normals } from "./normals";
import type { Operation } from "../../../bench/operations/operation";
import { repair } from "./repair";
import { round } from "./round";
import { weld } from "./weld";

/** The operations of Mend, in the order in which they are done. */
export const OPERATIONS = [weld, repair, facing, round, normals] as unknown as Operation[];
