import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { answerBy } from "../testing/address";

const answers: (() => Response | Promise<Response>)[] = [];
const sent: string[] = [];
const bodies: unknown[] = [];

answerBy(async (request) => {
  sent.push(request.url.split("/").pop() ?? "");
  const next = answers.shift();
  bodies.push(await request.json());
  if (!next) throw new TypeError("no network");
  return next();
});
const json = (status: number, body: unknown) => () =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

const item = (id: string, minute: number) => ({
  id,
  checkId: "c",
  roundId: "r",
  at: { machine: "Dunlin", check: "Tram", round: 1, station: "right" },
  body: {
    station: "3",
    text: "+1",
    unit: "mm" as const,
    grade: "",
    note: "",
    x: "",
    y: "",
    accepted: false,
    withdrawn: false,
    read_at: `2026-03-01T19:0${minute}:00Z`,
  },
});

/** A page of its own on the same device: the module's memory is fresh, IndexedDB is not. */
async function page(person = "1") {
  vi.resetModules();
  const outbox = await import("./outbox");
  outbox.sendFor(person);
  const kept: unknown[] = [];
  await outbox.startOutbox((news) => void kept.push(news));
  return { ...outbox, kept };
}

describe("readings on their way", () => {
  beforeEach(() => {
    answers.length = 0;
    sent.length = 0;
    bodies.length = 0;
  });

  afterEach(async () => {
    // what one test leaves is none of the next one's
    const { clear, createStore } = await import("idb-keyval");
    await clear(createStore("calm-square", "outbox"));
  });

  it("survive a lost connection and a new page, and go out oldest first", async () => {
    const first = await page();
    await first.post(item("late", 2));
    await first.post(item("early", 1));
    await vi.waitFor(() => expect(sent).toHaveLength(2));
    answers.push(json(200, { id: "c" }), json(200, { id: "c" }));
    sent.length = 0;
    const second = await page();
    await vi.waitFor(() => expect(second.kept).toHaveLength(2));
    expect(sent).toEqual(["early", "late"]);
    const third = await page();
    await third.flush();
    expect(sent).toHaveLength(2);
  });

  it("outlast a page that was gone before the store had them, and one that looked at them", async () => {
    const noted = { ...item("noted", 1), owner: "1" };
    localStorage.setItem("calm-square.outbox.noted", JSON.stringify(noted));
    localStorage.setItem("calm-square.outbox.garbled", "{");
    const first = await page();
    await first.post({ ...item("seen", 2), looking: first.PAGE });
    await vi.waitFor(() => expect(new Set(sent)).toEqual(new Set(["noted"])));
    expect(Object.keys(localStorage)).toEqual([]);
    // looked at by a page that is there no more: it goes out as it was typed
    sent.length = 0;
    answers.push(json(200, { id: "c" }), json(200, { id: "c" }));
    await page();
    await vi.waitFor(() => expect(sent.slice(-2)).toEqual(["noted", "seen"]));
    expect(bodies.at(-1)).toMatchObject({ text: "+1", accepted: false });
  });

  it("wait for the person when the record refuses them, and do not hold up the rest", async () => {
    const here = await page();
    const refusal = {
      title: "x",
      detail: "no",
      errors: [{ field: "text", message: "Not a length.", expected: "Type 1 mm." }],
    };
    answers.push(json(422, refusal), json(200, { id: "c" }));
    await here.post(item("bad", 1));
    await here.post(item("good", 2));
    await vi.waitFor(() => expect(here.kept).toHaveLength(1));
    answers.push(json(200, { id: "c" }));
    await here.sendAgain("bad", { id: "r2", number: 2 });
    await vi.waitFor(() => expect(here.kept).toHaveLength(2));
    expect(sent.filter((id) => id === "bad")).toHaveLength(2);
  });

  it("stay while nobody is signed in", async () => {
    const here = await page();
    answers.push(json(401, { title: "x", detail: "Sign in" }));
    await here.post(item("mine", 1));
    await vi.waitFor(() => expect(sent).toEqual(["mine"]));
    answers.push(json(200, { id: "c" }));
    await vi.waitFor(async () => {
      await here.flush();
      expect(here.kept).toHaveLength(1);
    });
  });

  it("are shown to and sent for nobody but who typed them", async () => {
    const theirs = await page("1");
    await theirs.post(item("a", 1));
    await vi.waitFor(() => expect(sent).toEqual(["a"]));
    const other = await page("2");
    answers.push(json(200, { id: "c" }));
    await other.flush();
    expect(sent).toEqual(["a"]);
    await other.post(item("b", 2));
    await vi.waitFor(() => expect(other.kept).toHaveLength(1));
    expect(sent).toEqual(["a", "b"]);
    // signed out: nobody's are sent
    other.sendFor("");
    answers.push(json(200, { id: "c" }));
    await other.flush();
    expect(sent).toEqual(["a", "b"]);
    other.sendFor("1");
    await vi.waitFor(() => expect(other.kept).toHaveLength(2));
    expect(sent).toEqual(["a", "b", "a"]);
  });

  it("step aside after a few failures of the server, and let the others pass", async () => {
    const here = await page();
    const broken = json(500, { title: "x", detail: "It broke." });
    answers.push(broken, json(200, { id: "c" }));
    await here.post(item("bad", 1));
    await vi.waitFor(() => expect(sent).toEqual(["bad"]));
    await here.post(item("good", 2));
    await vi.waitFor(() => expect(here.kept).toHaveLength(1));
    answers.push(broken, broken);
    await here.flush();
    await here.flush();
    await vi.waitFor(() => expect(sent.filter((id) => id === "bad")).toHaveLength(3));
    await here.flush();
    expect(sent.filter((id) => id === "bad")).toHaveLength(3);
    const again = await page();
    answers.push(json(200, { id: "c" }));
    await again.correct("bad", "+2");
    await vi.waitFor(() => expect(again.kept).toHaveLength(1));
    expect(sent.at(-1)).not.toBe("bad");
    expect(bodies.at(-1)).toMatchObject({ text: "+2", accepted: false });
  });

  it("are not blamed for a server that is away", async () => {
    const here = await page();
    for (const status of [503, 502, 504, 429, 503])
      answers.push(json(status, { title: "x", detail: "Away." }));
    await here.post(item("patient", 1));
    answers.push(json(200, { id: "c" }));
    await vi.waitFor(async () => {
      await here.flush();
      expect(here.kept).toHaveLength(1);
    });
    expect(sent).toHaveLength(6);
  });

  it("wait for the one that they lean on, and follow it when it is corrected", async () => {
    const here = await page();
    const refusal = { title: "x", detail: "no", errors: [] };
    answers.push(json(422, refusal));
    await here.post(item("zero", 1));
    await vi.waitFor(() => expect(sent).toEqual(["zero"]));
    const later = item("later", 2);
    await here.post({ ...later, body: { ...later.body, zeroed_on: "zero" } });
    await here.flush();
    expect(sent).toEqual(["zero"]);
    answers.push(json(200, { id: "c" }), json(200, { id: "c" }));
    await here.correct("zero", "+5");
    await vi.waitFor(() => expect(here.kept).toHaveLength(2));
    expect(sent[2]).toBe("later");
    expect(bodies[2]).toMatchObject({ zeroed_on: sent[1] });
  });

  it("can be put aside, and handed over as a table", async () => {
    const here = await page();
    answers.push(json(422, { title: "x", detail: 'Not "taken".', errors: [] }));
    await here.post(item("bad", 1));
    const { result } = renderHook(() => here.useOutbox());
    await vi.waitFor(() => expect(result.current[0]?.refused).toBeTruthy());
    await act(() => here.putAside("bad"));
    await here.flush();
    expect(sent).toEqual(["bad"]);
    expect(result.current.map((w) => [w.id, w.aside])).toEqual([["bad", true]]);
    expect(here.asCsv(result.current)).toBe(
      '"read at","machine","check","round","station","reading","note","why"\r\n' +
        '"2026-03-01T19:01:00Z","Dunlin","Tram","1","right","+1 mm","","Not ""taken""."\r\n',
    );
    answers.push(json(200, { id: "c" }));
    await act(() => here.sendAgain("bad"));
    await vi.waitFor(() => expect(here.kept).toHaveLength(1));
  });

  it("of an earlier version are sent for nobody before somebody has looked at them", async () => {
    const { set, createStore } = await import("idb-keyval");
    const { at: _, ...old } = item("old", 1);
    await set("old", old, createStore("calm-square", "outbox"));
    const here = await page();
    await here.flush();
    expect(sent).toEqual([]);
    const { result } = renderHook(() => here.useOutbox());
    expect(result.current[0]?.refused?.message).toContain("who had typed");
    answers.push(json(200, { id: "c" }));
    await act(() => here.sendAgain("old"));
    await vi.waitFor(() => expect(here.kept).toHaveLength(1));
  });
});
