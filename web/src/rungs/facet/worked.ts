import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { useBench } from "../../bench/bench";

/** Milliseconds until what is being worked out is asked for again. */
const AGAIN = 500;

interface Told {
  state: string;
}

/** Asks for what is worked out until it is done; it goes on only for as long as it is asked for. */
export function useWorked<Asked, Answer extends Told>(
  name: string,
  ask: (job: number, asked: Asked) => Promise<Answer>,
): {
  answer: Answer | undefined;
  error: Error | null;
  asked: Asked | null;
  start: (asked: Asked) => void;
  stop: () => void;
} {
  const { job, result } = useBench();
  const [asked, setAsked] = useState<Asked | null>(null);
  const found = useQuery({
    queryKey: [name, job.id, job.decisions_id, result?.model_key, asked],
    enabled: asked !== null,
    queryFn: () => ask(job.id, asked!),
    refetchInterval: (query) =>
      query.state.status === "success" && query.state.data?.state !== "done" ? AGAIN : false,
    retry: false,
  });
  return {
    answer: asked === null ? undefined : found.data,
    error: asked === null ? null : found.error,
    asked,
    start: setAsked,
    stop: () => setAsked(null),
  };
}
