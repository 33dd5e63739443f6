import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";

import { newest } from "./newest";
import { api, type Decisions, type Finding, type Job, need, needJob, type Offer, Problem, type Views } from "./client";
import { inView } from "./inView";

/** The job, kept current by the server's events. */
export function useJob(id: number) {
  const queries = useQueryClient();
  const [connected, setConnected] = useState(true);
  const [attempt, setAttempt] = useState(0);
  useEffect(() => {
    const events = new EventSource(`/api/jobs/${id}/events`);
    let late: ReturnType<typeof setTimeout> | undefined;
    events.onopen = () => {
      clearTimeout(late);
      setConnected(true);
    };
    // The browser tries again by itself, but for an answer that is none, such as while the database is away.
    events.onerror = () => {
      clearTimeout(late);
      late = setTimeout(() => {
        setConnected(false);
        if (events.readyState === EventSource.CLOSED) setAttempt((now) => now + 1);
      }, 1500);
    };
    events.addEventListener("job", (event) => {
      const told = JSON.parse((event as MessageEvent<string>).data) as Job;
      queries.setQueryData<Job>(["job", id], (known) => newest(known, told));
    });
    return () => {
      clearTimeout(late);
      events.close();
    };
  }, [id, queries, attempt]);
  const asked = useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      const asked = needJob(await api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } }));
      return newest(queries.getQueryData<Job>(["job", id]), asked);
    },
    staleTime: Infinity,
    refetchInterval: (query) => (query.state.status === "error" ? 3000 : false),
  });
  return { ...asked, connected };
}

/** What does not change with decisions; asked for as soon as anything of a source is known. */
export function useStructure(job: Job | undefined) {
  return useQuery({
    queryKey: ["structure", job?.id, job?.model_key],
    enabled: !!job?.model_key,
    placeholderData: keepPreviousData,
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/structure", { params: { path: { job_id: job!.id } } })),
    staleTime: Infinity,
  });
}

export type Decide = (change: (now: Decisions) => Decisions, label: string, moving?: boolean) => void;

/** Ways to change a job, each done after the one before it. */
export interface Deciding {
  decide: Decide;
  act: (what: Act) => void;
  /** Take an offer of a finding; of none where something else is to be changed by the rules of the job. */
  take: (finding: Pick<Finding, "source" | "parts">, offer: Offer) => void;
  /** Take a way to fit; what it is told comes to `done`, in place of a notice. */
  fit: (way: Way, label: string, done?: (problem: Problem | null) => void) => void;
  change: (work: () => Promise<Job>) => void;
  problem: Problem | null;
  forget: () => void;
  /** Changes that the server has not answered yet. */
  pending: number;
}

/**
 * Puts decisions in force, one after the other. While a slider moves only its
 * newest position is sent, and the whole movement is one step of undo.
 */
export function useDecide(id: number): Deciding {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [pending, setPending] = useState(0);
  const chain = useRef<Promise<void>>(Promise.resolve());
  const waiting = useRef<{ label: string; change: (now: Decisions) => Decisions } | null>(null);
  const movement = useRef<{ label: string; id: number; at: number } | null>(null);

  const enqueue = useCallback(
    (work: () => Promise<Job>) => {
      setPending((now) => now + 1);
      chain.current = chain.current.then(async () => {
        try {
          const answer = await work();
          queries.setQueryData<Job>(["job", id], (known) => newest(known, answer));
          setProblem(null);
        } catch (error) {
          setProblem(error instanceof Problem ? error : new Problem("The server did not answer.", "Try again."));
        } finally {
          setPending((now) => now - 1);
        }
      });
    },
    [id, queries],
  );

  const send = useCallback(
    (change: (now: Decisions) => Decisions, label: string, moving: boolean) =>
      enqueue(async () => {
        const put = async (job: Job) => {
          const last = movement.current;
          const same = moving && last?.label === label && last.id === job.decisions_id && Date.now() - last.at < 5000;
          return needJob(
            await api.PUT("/api/jobs/{job_id}/decisions", {
              params: { path: { job_id: id } },
              body: {
                decisions: change(job.decisions) as Views["DecisionsIn"]["decisions"],
                label,
                base: job.decisions_id,
                continues: same ? job.decisions_id : null,
                first: inView(),
              },
            }),
          );
        };
        let after: Job;
        try {
          after = await put(queries.getQueryData<Job>(["job", id])!);
        } catch (error) {
          if (!(error instanceof Problem) || error.code !== "conflict") throw error;
          // Somebody decided elsewhere, as in another tab: the same change is made to what is in force now.
          const now = needJob(await api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } }));
          queries.setQueryData<Job>(["job", id], (known) => newest(known, now));
          after = await put(now);
        }
        movement.current = moving ? { label, id: after.decisions_id, at: Date.now() } : null;
        return after;
      }),
    [enqueue, id, queries],
  );

  const decide = useCallback<Decide>(
    (change, label, moving = false) => {
      if (!moving) return send(change, label, false);
      const idle = waiting.current === null;
      waiting.current = { change, label };
      if (idle)
        setTimeout(() => {
          const newest = waiting.current!;
          waiting.current = null;
          send(newest.change, newest.label, true);
        }, 120);
    },
    [send],
  );

  const act = useCallback(
    (what: Act) =>
      enqueue(async () => needJob(await api.POST(`/api/jobs/{job_id}/${what}`, { params: { path: { job_id: id } } }))),
    [enqueue, id],
  );

  const take = useCallback(
    (finding: Pick<Finding, "source" | "parts">, offer: Offer) =>
      enqueue(async () =>
        needJob(
          await api.POST("/api/jobs/{job_id}/offers", {
            params: { path: { job_id: id } },
            body: { ...offer, source: finding.source, parts: finding.parts },
          }),
        ),
      ),
    [enqueue, id],
  );

  const fit = useCallback(
    (way: Way, label: string, done?: (problem: Problem | null) => void) =>
      enqueue(async () => {
        try {
          const after = needJob(
            await api.POST("/api/jobs/{job_id}/fit", {
              params: { path: { job_id: id } },
              body: { way: way as Views["WayIn"]["way"], label },
            }),
          );
          done?.(null);
          return after;
        } catch (error) {
          if (!done || !(error instanceof Problem)) throw error;
          done(error);
          return queries.getQueryData<Job>(["job", id])!;
        }
      }),
    [enqueue, id, queries],
  );

  return { decide, act, take, fit, change: enqueue, problem, forget: () => setProblem(null), pending };
}

/** A way to fit, as the server takes it; what it leaves out is as usual. */
type Sparse<T> = T extends { does?: infer D } ? Partial<Omit<T, "does">> & { does: NonNullable<D> } : never;
export type Way = Sparse<Views["WayIn"]["way"]>;

export type Act = "undo" | "redo" | "cancel" | "resume";
