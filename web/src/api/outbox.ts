/**
 * Readings on their way to the record. Each is written to IndexedDB the moment it is entered and
 * leaves only when the server has it, or when the person takes it back: a lost connection, a
 * restart or a reload loses nothing.
 */
import { createStore, del, entries, set } from "idb-keyval";
import { useSyncExternalStore } from "react";
import { type ApiProblem, api, type Schemas, told } from "./client";
import type { News } from "./news";

export interface Outgoing {
  id: string;
  checkId: string;
  roundId: string;
  body: Schemas["ReadingIn"];
  /** Why the server would not take it, in its own words; it waits for the person. */
  refused?: { message: string; status: number };
}

type Keep = (news: News) => void;

const RETRY_MS = 2500;
const store = createStore("calm-square", "outbox");

let waiting: Outgoing[] = [];
let reached = true;
let sending = false;
let keep: Keep = () => undefined;
const listeners = new Set<() => void>();

function changed(next: Outgoing[]): void {
  waiting = [...next].sort((a, b) => a.body.read_at.localeCompare(b.body.read_at));
  for (const listener of listeners) listener();
}

/** Load what an earlier page left, and begin sending. */
export async function startOutbox(onKept: Keep): Promise<void> {
  keep = onKept;
  changed((await entries<string, Outgoing>(store)).map(([, item]) => item));
  window.addEventListener("online", () => void flush());
  window.setInterval(() => void flush(), RETRY_MS);
  void flush();
}

/** Keep a reading and send it as soon as it can be. */
export async function post(item: Outgoing): Promise<void> {
  changed([...waiting.filter((w) => w.id !== item.id), item]);
  await set(item.id, item, store);
  void flush();
}

/** Take back a reading that the server would not have. */
export async function discard(id: string): Promise<void> {
  changed(waiting.filter((w) => w.id !== id));
  await del(id, store);
}

/** Send a refused reading to another round. */
export async function redirect(id: string, roundId: string): Promise<void> {
  const item = waiting.find((w) => w.id === id);
  if (item) await post({ ...item, roundId, refused: undefined });
}

async function refuse(item: Outgoing, problem: ApiProblem): Promise<void> {
  const message = problem.errors[0]
    ? `${problem.errors[0].message} ${problem.errors[0].expected}`.trim()
    : problem.message;
  const refused = { ...item, refused: { message, status: problem.status } };
  changed(waiting.map((w) => (w.id === item.id ? refused : w)));
  await set(item.id, refused, store);
}

/** Send what waits, oldest first, one at a time; stop at the first that cannot be sent now. */
export async function flush(): Promise<void> {
  if (sending) return;
  sending = true;
  try {
    for (;;) {
      const item = waiting.find((w) => !w.refused);
      if (!item) break;
      try {
        const news = await told(
          api.PUT("/api/v1/rounds/{round_id}/readings/{reading_id}", {
            params: { path: { round_id: item.roundId, reading_id: item.id } },
            body: item.body,
          }),
        );
        setReached(true);
        // first the state that has it, then the queue without it: it never vanishes in between
        keep(news);
        await discard(item.id);
      } catch (error) {
        const problem = error as ApiProblem;
        // signed out: it waits here until somebody has signed in again
        if (problem.temporary || problem.status === 401) {
          setReached(problem.status === 401);
          break;
        }
        setReached(true);
        await refuse(item, problem);
      }
    }
  } finally {
    sending = false;
  }
}

function setReached(now: boolean): void {
  if (reached === now) return;
  reached = now;
  for (const listener of listeners) listener();
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** Readings that have not reached the record yet. */
export const useOutbox = (): Outgoing[] => useSyncExternalStore(subscribe, () => waiting);

/** Whether the server answered when it was last asked. */
export const useReached = (): boolean => useSyncExternalStore(subscribe, () => reached);
