import { queryOptions } from "@tanstack/react-query";

import { Problem } from "../api/client";

/** Milliseconds until what is being worked out is asked for again. */
const AGAIN = 700;

/** What is asked for once a mesh, and again while the answer is that it is being worked out. */
export function soon<T>(key: unknown[], ask: () => Promise<{ data?: T; response: Response }>, enabled: boolean) {
  return queryOptions({
    queryKey: key,
    enabled,
    queryFn: async (): Promise<T | null> => {
      const answer = await ask();
      if (answer.response.status === 202) return null;
      if (!answer.response.ok || !answer.data) throw new Problem("The server did not answer.", "");
      return answer.data;
    },
    refetchInterval: (query) => (query.state.status === "success" && !query.state.data ? AGAIN : false),
    staleTime: Infinity,
    gcTime: 60_000,
  });
}
