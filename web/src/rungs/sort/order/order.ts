import type { Decisions } from "../../../api/client";

export type Order = Decisions["sort"]["order"];
/** Changes the order as it then stands, which may be newer than what is seen. */
export type SetOrder = (change: (now: Order) => Partial<Order>, label: string) => void;
