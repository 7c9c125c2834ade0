/**
 * Readings on their way to the record. Each is written down on the device in the same breath in
 * which it is entered, and leaves only when the server has it, or when the person takes it back: a
 * lost connection, a server that is slow or silent, a restart, a reload, a tab that is closed or
 * somebody else at the same device loses nothing. Each belongs to the person who typed it, and goes
 * out in nobody else's name.
 */
import { createStore, del, entries, set } from "idb-keyval";
import { useSyncExternalStore } from "react";
import { v4 as uuid } from "uuid";
import { type ApiProblem, AWAY, api, type Schemas, told, whenAnswered } from "./client";
import type { News } from "./news";

/** Where a reading belongs, for people: told without asking the server. */
export interface Whereabouts {
  machine: string;
  check: string;
  round: number;
  station: string;
}

export interface Outgoing {
  id: string;
  /** Who typed it; empty when a version before this one kept it. */
  owner: string;
  checkId: string;
  roundId: string;
  at: Whereabouts;
  body: Schemas["ReadingIn"];
  /** How often the server has failed on it. */
  tries?: number;
  /** Why the server would not take it, in its own words; it waits for the person. */
  refused?: { message: string; status: number };
  /** The person wants it out of the way, and not lost. */
  aside?: boolean;
  /** The page that looks at it, or asks the person about it, before it is sent. */
  looking?: string;
}

/** Puts news where screens read it; done when they have it. */
type Keep = (news: News) => void | Promise<void>;

const RETRY_MS = 2500;
const MOST_TRIES = 3;
/** After so long a server is called slow; after so long it is asked anew. */
const SLOW_MS = 4000;
const ANSWER_MS = 60_000;
const store = createStore("calm-square", "outbox");
/** The same, at once: what is written there stands when the key that entered it is done. */
const JOURNAL = "calm-square.outbox.";
/** This page, for as long as it is open. */
export const PAGE = `calm-square.page.${uuid()}`;

let everyone: Outgoing[] = [];
let mine: Outgoing[] = [];
let person = "";
let reached = true;
let slow = false;
let sending = false;
let stamped = 0;
let keep: Keep = () => undefined;
const listeners = new Set<() => void>();

function changed(next: Outgoing[]): void {
  everyone = [...next].sort((a, b) => a.body.read_at.localeCompare(b.body.read_at));
  mine = person === "" ? [] : everyone.filter((w) => w.owner === person || w.owner === "");
  for (const listener of listeners) listener();
}

/** When something is entered: never the moment of what was entered before it. */
export function stamp(): string {
  stamped = Math.max(Date.now(), stamped + 1);
  return new Date(stamped).toISOString();
}

/** Do something with the journal, where a browser lets a page have one and there is room in it. */
function noted<T>(act: (notes: Storage) => T): T | undefined {
  try {
    return act(localStorage);
  } catch {
    // the store takes it a moment later
    return undefined;
  }
}

async function put(item: Outgoing): Promise<void> {
  const text = JSON.stringify(item);
  const name = `${JOURNAL}${item.id}`;
  noted((notes) => notes.setItem(name, text));
  changed([...everyone.filter((w) => w.id !== item.id), item]);
  await set(item.id, item, store);
  // unless it was written down anew meanwhile
  noted((notes) => notes.getItem(name) === text && notes.removeItem(name));
}

/** What was written down and had no time to reach the store. */
function journal(): Outgoing[] {
  const found: Outgoing[] = [];
  const names = noted((notes) => Object.keys(notes)) ?? [];
  for (const name of names.filter((n) => n.startsWith(JOURNAL))) {
    const item = noted((notes) => JSON.parse(notes.getItem(name) ?? "") as Outgoing);
    if (item) found.push(item);
    else noted((notes) => notes.removeItem(name));
  }
  return found;
}

/** The pages of this device that are open, as far as a browser tells. */
async function openPages(): Promise<Set<string>> {
  const held = (await navigator.locks?.query())?.held ?? [];
  return new Set(held.map((lock) => lock.name ?? ""));
}

/** What a page looked at that is not there any more is sent as it was typed. */
async function takeOver(): Promise<void> {
  const left = everyone.filter((item) => item.looking && item.looking !== PAGE);
  if (left.length === 0) return;
  const open = await openPages();
  for (const item of left)
    if (item.looking && !open.has(item.looking)) await put({ ...item, looking: undefined });
}

/** Load what an earlier page left, and begin sending. */
export async function startOutbox(onKept: Keep): Promise<void> {
  keep = onKept;
  // held for as long as this page is open
  void navigator.locks?.request(PAGE, () => new Promise(() => {}));
  const journaled = journal();
  const newer = new Set(journaled.map((item) => item.id));
  const stored = (await entries<string, Outgoing>(store)).map(([, item]) => item);
  const left = [...stored.filter((item) => !newer.has(item.id)), ...journaled];
  const mean = new Set(everyone.map((item) => item.id));
  changed([...everyone, ...left.filter((item) => !mean.has(item.id)).map(withOwner)]);
  for (const item of journaled) if (!mean.has(item.id)) await put(withOwner(item));
  await takeOver();
  whenAnswered(() => setReached(true));
  window.addEventListener("online", () => void flush());
  window.setInterval(() => void takeOver().then(flush), RETRY_MS);
  void flush();
}

function withOwner(item: Outgoing): Outgoing {
  if (item.owner) return item;
  const message = "It was kept here before readings were marked with who had typed them.";
  const at = item.at ?? { machine: "", check: "", round: 0, station: item.body.station };
  return { ...item, owner: "", at, refused: item.refused ?? { message, status: 0 } };
}

/** Whose readings are shown and sent from now on; nobody's for an empty id. */
export function sendFor(id: string): void {
  if (person === id) return;
  person = id;
  changed(everyone);
  void flush();
}

/** Whose readings are sent now. */
export const whoSends = (): string => person;

/** Keep a reading and send it as soon as it can be. */
export async function post(item: Omit<Outgoing, "owner">): Promise<void> {
  await put({ ...item, owner: person });
  void flush();
}

/** Nobody looks at this round's readings any more: they are sent as they were typed. */
export async function release(roundId: string): Promise<void> {
  const left = everyone.filter((w) => w.roundId === roundId && w.looking === PAGE);
  for (const item of left) await put({ ...item, looking: undefined });
  if (left.length > 0) void flush();
}

/** Take back a reading that the server would not have. */
export async function discard(id: string): Promise<void> {
  changed(everyone.filter((w) => w.id !== id));
  noted((notes) => notes.removeItem(`${JOURNAL}${id}`));
  await del(id, store);
}

/** Send a refused reading once more, to its own round or to another. */
export async function sendAgain(id: string, to?: { id: string; number: number }): Promise<void> {
  const item = everyone.find((w) => w.id === id);
  if (!item) return;
  const { refused: _, aside: __, tries: ___, looking: ____, ...rest } = item;
  await post(to ? { ...rest, roundId: to.id, at: { ...rest.at, round: to.number } } : rest);
}

/** Send a refused reading with another text, as a reading of its own; what leans on it follows. */
export async function correct(id: string, text: string): Promise<void> {
  const item = everyone.find((w) => w.id === id);
  if (!item) return;
  const { refused: _, aside: __, tries: ___, ...rest } = item;
  const anew = uuid();
  const body = { ...rest.body, text, dial: null, accepted: false };
  await put({ ...rest, id: anew, owner: person, body });
  for (const later of mine.filter((w) => leansOn(w, id))) {
    const leaning = { ...later.body };
    if (leaning.supersedes === id) leaning.supersedes = anew;
    if (leaning.zeroed_on === id) leaning.zeroed_on = anew;
    await put({ ...later, body: leaning });
  }
  await discard(id);
  void flush();
}

/** Put a refused reading out of the way, or take it up again; it stays on this device. */
export async function putAside(id: string, aside = true): Promise<void> {
  const item = everyone.find((w) => w.id === id);
  if (item) await put({ ...item, aside });
}

async function refuse(item: Outgoing, problem: ApiProblem): Promise<void> {
  const told = problem.whole;
  const message =
    problem.status >= 500 ? `The server failed on it ${MOST_TRIES} times. ${told}` : told;
  await put({ ...item, refused: { message, status: problem.status } });
}

/** Whether a reading can only be understood after the one with this id. */
export const leansOn = ({ body }: Outgoing, id: string): boolean =>
  body.supersedes === id || body.zeroed_on === id;

const waitsFor = (item: Outgoing): boolean => mine.some((w) => !w.aside && leansOn(item, w.id));

/**
 * Send what waits, oldest first, one at a time; stop when nothing can be sent now. One that the
 * server fails on lets the others pass, and after a few tries waits for the person.
 */
export async function flush(): Promise<void> {
  if (sending) return;
  sending = true;
  const failed = new Set<string>();
  try {
    for (;;) {
      const item = mine.find((w) => !w.refused && !w.looking && !failed.has(w.id) && !waitsFor(w));
      if (!item) break;
      const late = window.setTimeout(() => setSlow(true), SLOW_MS);
      try {
        const news = await told(
          api.PUT("/api/v1/rounds/{round_id}/readings/{reading_id}", {
            params: { path: { round_id: item.roundId, reading_id: item.id } },
            body: item.body,
            signal: AbortSignal.timeout(ANSWER_MS),
          }),
        );
        setReached(true);
        // first the state that has it, then the queue without it: it never vanishes in between
        await keep(news);
        await discard(item.id);
      } catch (error) {
        const problem = error as ApiProblem;
        // signed out: it waits here until its person has signed in again
        if (problem.status === 401) {
          setReached(true);
          break;
        }
        if (problem.status === 0 || problem.status === 429 || AWAY.includes(problem.status)) {
          setReached(false);
          break;
        }
        setReached(true);
        const tries = (item.tries ?? 0) + 1;
        if (problem.status < 500 || tries >= MOST_TRIES) await refuse(item, problem);
        else {
          failed.add(item.id);
          await put({ ...item, tries });
        }
      } finally {
        window.clearTimeout(late);
        setSlow(false);
      }
    }
  } finally {
    sending = false;
  }
}

function setSlow(now: boolean): void {
  if (slow === now) return;
  slow = now;
  for (const listener of listeners) listener();
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

/** This person's readings that have not reached the record yet. */
export const useOutbox = (): Outgoing[] => useSyncExternalStore(subscribe, () => mine);

/** Whether the server answered when it was last asked. */
export const useReached = (): boolean => useSyncExternalStore(subscribe, () => reached);

/** Whether the server is asked and takes its time. */
export const useSlow = (): boolean => useSyncExternalStore(subscribe, () => slow);

/** How a reading was typed, with its unit; an answer by its grade. */
export function asTyped({ body }: Outgoing): string {
  if (body.withdrawn) return "taken back";
  if (body.text) return body.text.endsWith(body.unit) ? body.text : `${body.text} ${body.unit}`;
  if (body.dial) return `needle at ${Math.round(body.dial.angle_deg)}°, turn ${body.dial.turns}`;
  return [body.grade, body.x, body.y].filter(Boolean).join(" ");
}

/** Readings as a table that any spreadsheet opens, a line each. */
export function asCsv(items: readonly Outgoing[]): string {
  const cell = (value: unknown) => `"${String(value ?? "").replaceAll('"', '""')}"`;
  const rows = items.map(({ at, body, refused, ...item }) => [
    body.read_at,
    at.machine,
    at.check,
    at.round,
    at.station || body.station,
    asTyped({ at, body, ...item }),
    body.note,
    refused?.message ?? "waits for the connection",
  ]);
  const head = ["read at", "machine", "check", "round", "station", "reading", "note", "why"];
  return `${[head, ...rows].map((row) => row.map(cell).join(",")).join("\r\n")}\r\n`;
}
