import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeAll, beforeEach, vi } from "vitest";
import type { RoundState } from "../api/client";
import type { News } from "../api/news";
import { flush, sendFor, startOutbox } from "../api/outbox";
import { Read } from "../screens/check/Read";
import { isolatedKey } from "../screens/check/useIsolated";
import { aCheck, aRound, draw, preview, reading, Server, tram } from "./shed";

export let server: Server;
/** Understandings that a test holds back: none of them outlasts it. */
let heldBack: (() => void)[] = [];
/** What the screen does with news from the record. */
let heard: (news: News) => void | Promise<void> = () => {};
export const onNews = (does: typeof heard) => {
  heard = does;
};

export const kept = (sent: { path: string; body: Record<string, unknown> }) => ({
  check_id: "c1",
  round_id: "r1",
  readings: [
    reading(sent.path.split("/").pop() ?? "", String(sent.body.station), String(sent.body.text)),
  ],
  after: null,
  stations: [],
  order: null,
  turn: null,
  next_station: "3",
  brief: { ready: false, complete: false },
});

/** A server for each test, and an outbox that is empty after it. */
export function atTheMachine(): void {
  beforeAll(async () => {
    sendFor("1");
    await startOutbox((news) => heard(news));
  });

  beforeEach(() => {
    sessionStorage.setItem(isolatedKey("m1"), "isolated");
    window.scrollTo = vi.fn();
    server = new Server()
      .on("POST /rounds/r1/preview", (s: { body: { text: string } }) => preview(s.body.text))
      .on("PUT /rounds/r1/readings/", kept);
  });

  afterEach(async () => {
    // the outbox outlives a screen: what was typed on it arrives before the next one is drawn
    server.on("PUT /rounds/r1/readings/", kept);
    heard = () => {};
    cleanup();
    for (const letGo of heldBack) letGo();
    heldBack = [];
    await server.quiet();
    await flush();
    await server.quiet();
    sessionStorage.clear();
    localStorage.clear();
  });
}

export function show(round: RoundState = aRound(), more = {}, passes = round.passes) {
  const done = vi.fn();
  const props = { check: aCheck(round, more), kind: tram, round, passes, done };
  return { ...draw(<Read {...props} />), done, props };
}

export const field = () => screen.getByRole("textbox", { name: /^Reading/ }) as HTMLInputElement;

/** A screen whose round grows with what the record has taken, as the application's does. */
export function living() {
  const drawn = show();
  let round = drawn.props.round;
  heard = (news) => {
    const readings = [...round.readings, ...news.readings];
    round = { ...round, readings, next_station: ["12", "3", "6", "9"][readings.length] ?? null };
    act(() => drawn.again(<Read {...drawn.props} check={aCheck(round)} round={round} />));
  };
  return drawn;
}

export function type(text: string) {
  fireEvent.change(field(), { target: { value: text } });
  fireEvent.keyDown(field(), { key: "Enter" });
}

/** A reading at a station, as the screen hands it to the outbox. */
export const outgoing = (at: string) => ({
  id: `at-${at}`,
  checkId: "c1",
  roundId: "r1",
  at: { machine: "Dunlin", check: "Tram", round: 1, station: at },
  body: {
    ...{ station: at, text: "+1", unit: "mm" as const, grade: "", note: "", x: "", y: "" },
    ...{ accepted: false, withdrawn: false, read_at: `2026-03-01T19:00:0${at.length}Z` },
  },
});

export const soon = () => new Promise((r) => setTimeout(r, 20));
/** As long as it takes to read a question. */
export const read = () => new Promise((r) => setTimeout(r, 450));
export const sentReadings = () => server.to("PUT /rounds/r1/readings/").map((s) => s.body);

/**
 * These texts take their time to be understood, until they are answered; whatever is asked after
 * the first of them, as when it is back in the field, is understood at once.
 */
export function understoodSlowly(...texts: string[]): (told: unknown) => void {
  let asked = 0;
  let answer: (told: unknown) => void = () => {};
  server.on("POST /rounds/r1/preview", (s: { body: { text: string } }) => {
    if (!texts.includes(s.body.text) || asked++ > 0) return preview(s.body.text);
    return new Promise((resolve) => {
      answer = resolve;
      heldBack.push(() => resolve(preview(s.body.text)));
    });
  });
  return (told) => answer(told);
}
