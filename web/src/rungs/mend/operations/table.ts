import { normals } from "./normals";
import type { Operation } from "./operation";
import { weld } from "./weld";

/** The operations of Mend, in the order in which they are done. */
export const OPERATIONS = [weld, normals] as unknown as Operation[];
