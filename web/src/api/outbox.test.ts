import { beforeEach, describe, expect, it, vi } from "vitest";
import { answerBy } from "../testing/address";

const answers: (() => Response | Promise<Response>)[] = [];
const sent: string[] = [];

answerBy(async (request) => {
  sent.push(request.url.split("/").pop() ?? "");
  const next = answers.shift();
  if (!next) throw new TypeError("no network");
  return next();
});
const json = (status: number, body: unknown) => () =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

const item = (id: string, minute: number) => ({
  id,
  checkId: "c",
  roundId: "r",
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
async function page() {
  vi.resetModules();
  const outbox = await import("./outbox");
  const kept: unknown[] = [];
  await outbox.startOutbox((check) => kept.push(check));
  return { ...outbox, kept };
}

describe("readings on their way", () => {
  beforeEach(() => {
    answers.length = 0;
    sent.length = 0;
  });

  it("survive a lost connection and a new page, and go out oldest first", async () => {
    const first = await page();
    await first.post(item("late", 2));
    await first.post(item("early", 1));
    await vi.waitFor(() => expect(sent.length).toBeGreaterThan(0));
    answers.push(json(200, { id: "c" }), json(200, { id: "c" }));
    sent.length = 0;
    const second = await page();
    await vi.waitFor(() => expect(second.kept).toHaveLength(2));
    expect(sent).toEqual(["early", "late"]);
    const third = await page();
    await third.flush();
    expect(sent).toHaveLength(2);
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
    await here.redirect("bad", "r2");
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
});
