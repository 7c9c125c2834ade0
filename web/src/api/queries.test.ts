// @vitest-environment node
import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { describe, expect, it } from "vitest";
import { aCheck, aRound, reading } from "../testing/shed";
import type { CheckState } from "./client";
import type { News } from "./news";
import { keepCheck, keepNews, keys } from "./queries";

const news = (id: string): News => ({
  check_id: "c1",
  round_id: "r1",
  readings: [reading(id, "12", "+1")],
  after: null,
  stations: [],
  order: null,
  turn: null,
  next_station: "3",
  brief: { ready: false, complete: false, verdict: null, values: [] },
});

/** A check on a screen, whose state is fetched by hand: each call answers one fetch. */
function watched() {
  const client = new QueryClient();
  const answers: ((check: CheckState) => void)[] = [];
  const observer = new QueryObserver<CheckState>(client, {
    queryKey: keys.check("c1"),
    queryFn: () => new Promise<CheckState>((resolve) => answers.push(resolve)),
    retry: false,
  });
  observer.subscribe(() => undefined);
  const texts = () =>
    client.getQueryData<CheckState>(keys.check("c1"))?.rounds[0]?.readings.map((r) => r.id);
  return { client, answers, texts };
}

/** How often the machine beside it and the logbook were asked for, by readings that left the round
 * so judged. */
async function asked(...judged: News["brief"]["verdict"][]) {
  const { client, answers } = watched();
  answers[0]?.(aCheck(aRound()));
  const fetched = { machine: -1, logbook: -1 };
  const beside = (name: keyof typeof fetched) => {
    const queryFn = async () => ++fetched[name];
    const observer = new QueryObserver(client, { queryKey: [name, "1"], queryFn });
    observer.subscribe(() => undefined);
    return observer;
  };
  const machine = beside("machine");
  beside("logbook");
  await soon();
  const counts = [];
  for (const [n, verdict] of judged.entries()) {
    const told = news(`r${n}`);
    keepNews(client, { ...told, brief: { ...told.brief, verdict } });
    await soon();
    counts.push(fetched.machine);
  }
  // what was read stands in the logbook at once
  expect(fetched.logbook).toBe(judged.length);
  return { counts, stale: machine.getCurrentResult().isStale };
}

const soon = () => new Promise((r) => setTimeout(r, 5));

describe("what the server has said", () => {
  it("is not undone by an answer that was under way before it", async () => {
    const { client, answers, texts } = watched();
    answers[0]?.(aCheck(aRound()));
    await soon();
    void client.invalidateQueries({ queryKey: keys.check("c1") });
    await soon();
    expect(answers).toHaveLength(2);
    keepNews(client, news("first"));
    // the older answer comes in late, without the reading
    answers[1]?.(aCheck(aRound()));
    await soon();
    expect(texts()).toEqual(["first"]);
    keepCheck(client, aCheck(aRound({ readings: [reading("a", "12", "+1")] })));
    await soon();
    expect(texts()).toEqual(["a"]);
  });

  it("is asked for anew where the first answer is still under way", async () => {
    const { client, answers, texts } = watched();
    keepNews(client, news("first"));
    await soon();
    expect(answers.length).toBeGreaterThan(1);
    answers.at(-1)?.(aCheck(aRound({ readings: [reading("first", "12", "+1")] })));
    answers[0]?.(aCheck(aRound()));
    await soon();
    expect(texts()).toEqual(["first"]);
  });

  it("asks how the machine stands where a reading may have changed it, and else when it is looked at", async () => {
    expect(await asked(null, null)).toEqual({ counts: [0, 0], stale: true });
    expect((await asked(null, "out", "out", "true")).counts).toEqual([0, 1, 2, 3]);
    // a station that is withdrawn takes the verdict with it
    expect((await asked("true", null, null)).counts).toEqual([1, 2, 2]);
  });
});
