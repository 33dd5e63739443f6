import type { Decisions } from "../../api/client";

export type Target = Decisions["ship"]["target"];
export type SetTarget = (change: Partial<Target>, label: string) => void;
