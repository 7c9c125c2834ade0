// @vitest-environment node
import { describe, expect, it } from "vitest";
import { aCheck, aRound, reading, station, words } from "../testing/shed";
import { type News, withNews } from "./news";

const readings = [reading("a", "12", "+1"), reading("c", "3", "+3")];
const check = aCheck(aRound({ readings }), {
  rounds: [aRound({ id: "r0", number: 0 }), aRound({ readings })],
});

const news = (more: Partial<News>): News => ({
  check_id: "c1",
  round_id: "r1",
  readings: [],
  after: null,
  stations: [],
  order: null,
  turn: null,
  next_station: "6",
  brief: { ready: true, complete: false, verdict: "out", values: [] },
  ...more,
});

const told = (more: Partial<News>) => {
  const round = withNews(check, news(more)).rounds[1];
  return { ids: round?.readings.map((r) => r.id), keys: round?.stations.map((s) => s.key), round };
};

describe("the news of a reading", () => {
  it("stands where it was read: after its neighbour, first, or last", () => {
    const b = reading("b", "9", "+2");
    expect(told({ readings: [b], after: "a" }).ids).toEqual(["a", "b", "c"]);
    expect(told({ readings: [b], after: "c" }).ids).toEqual(["a", "c", "b"]);
    expect(told({ readings: [b], after: null }).ids).toEqual(["b", "a", "c"]);
    // a neighbour that this page has not heard of yet
    expect(told({ readings: [b], after: "elsewhere" }).ids).toEqual(["a", "c", "b"]);
  });

  it("replaces what it corrects and brings the judgement with it", () => {
    const gone = reading("a", "12", "+1", { live: false });
    const { ids, round } = told({ readings: [gone, reading("b", "12", "+9")], after: "a" });
    expect(ids).toEqual(["a", "b", "c"]);
    expect(round?.readings[0]?.live).toBe(false);
    expect(round?.brief.verdict).toBe("out");
    expect(round?.next_station).toBe("6");
  });

  it("takes up stations that came, went or changed their prompt", () => {
    const stations = [station("3", { prompt: words("Deeper.", "Deeper.") }), station("new")];
    const { keys, round } = told({ stations, order: ["3", "new", "12"] });
    expect(keys).toEqual(["3", "new", "12"]);
    expect(round?.stations[0]?.prompt.metric).toBe("Deeper.");
  });

  it("leaves other rounds and other checks alone", () => {
    expect(withNews(check, news({ round_id: "other" }))).toBe(check);
    expect(withNews(check, news({})).rounds[0]).toBe(check.rounds[0]);
    expect(check.rounds[1]?.readings).toBe(readings);
  });
});
