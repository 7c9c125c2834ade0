import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { RoundState, Schemas } from "../../api/client";
import { flush, sendFor, startOutbox } from "../../api/outbox";
import { kept } from "../../testing/reading";
import { aCheck, aRound, draw, Refusal, reading, Server, SILENCE, words } from "../../testing/shed";
import { Settle } from "./Settle";

let server: Server;

const estimate = (value: number): Schemas["Estimate"] => ({
  measure: "slope",
  value,
  u: 0.01,
  expanded: 0.02,
});

const quantity = (key: string, label: string, value: number): Schemas["Quantity"] => ({
  key,
  sort: key,
  tolerance_key: "lean",
  label: words(label, label),
  estimate: estimate(value),
  gain: 1,
  deduced: false,
  words: words(`${value} mm/m`),
  sentence: words(`${label} is out.`),
});

const judged = (
  key: string,
  verdict: "true" | "out" | "too_close",
  way_out: Schemas["WayOut"] | null = null,
): Schemas["Judged"] => ({
  quantity: key,
  tolerance: 0.1,
  measure: "slope",
  tolerance_words: words("0.1 mm/m"),
  verdict,
  text: words("told"),
  way_out,
});

const move = (key: string, more: Partial<Schemas["Move"]> = {}): Schemas["Move"] => ({
  key,
  mechanism: "head_pivot",
  title: words(`Turn the ${key}`),
  steps: [words("Loosen."), words("Tap.")],
  cautions: ["The head is heavy."],
  targets: [
    {
      station: "3",
      label: words("at 3", "at 3"),
      from_mm: 0.2,
      to_mm: 0.05,
      words: words("to +5 div"),
      quantity: "lean_x",
      per_mm: 1,
      lever_mm: 100,
      pushed_in: false,
    },
  ],
  part: "",
  about: "",
  instead: false,
  predicted: [
    {
      quantity: "lean_x",
      after: estimate(0),
      label: words("Lean", "Lean"),
      words: words("0 ±0.05 mm/m"),
    },
  ],
  takes: [],
  wants_photo: false,
  needs: null,
  ...more,
});

function found(
  verdict: "true" | "out" | "too_close",
  more: Partial<Schemas["FindingOut"]> = {},
  way_out: Schemas["WayOut"] | null = null,
): Schemas["FindingOut"] {
  return {
    round_id: "r1",
    finding: {
      kind: "spindle_tram",
      quantities: [quantity("lean_x", "Lean", 0.31), quantity("nod", "Nod", 0.02)],
      stations: [],
      notes: [{ tone: "weak", text: words("Rests on the stated repeatability."), station: null }],
      lines: [],
    } as unknown as Schemas["FindingOut"]["finding"],
    judgement: {
      verdict,
      judged: [judged("lean_x", verdict, way_out), judged("nod", "true")],
      sentence: words("It leans to the right."),
    },
    trends: [],
    jobs: [],
    problem: null,
    ready: true,
    complete: true,
    figures: [],
    advice_id: "advice-7",
    advice: { moves: [move("head")], leave: null, remarks: [] },
    drawing: null,
    ...more,
  };
}

beforeEach(() => {
  server = new Server().on("GET /rounds/r1/finding", found("out"));
});
afterEach(() => {
  cleanup();
  localStorage.clear();
  sessionStorage.clear();
});

async function show(round: RoundState = aRound(), more = {}) {
  const readMore = vi.fn();
  const drawn = draw(
    <Settle
      check={aCheck(round, more)}
      round={round}
      title="Tram"
      readMore={readMore}
      arrived={false}
    />,
  );
  await waitFor(() => expect(server.to("GET /rounds/r1/finding")).not.toHaveLength(0));
  await server.quiet();
  return { ...drawn, readMore };
}

describe("settling a round", () => {
  it("leaves out with one press what is pointed out, and counts it again with one", async () => {
    await startOutbox(() => {});
    sendFor("1");
    const told = found("too_close");
    const again = words("9 stands off what the other places agree on.");
    if (told.finding)
      told.finding.notes = [
        { tone: "look", text: again, station: "9", wild: true, readings: ["d"] },
      ];
    if (told.judgement) told.judgement.sentence = again;
    server.on("GET /rounds/r1/finding", told).on("PUT /rounds/r1/readings/", kept);
    const readings = [reading("c", "6", "0"), reading("d", "9", "+0.1")];
    const { unmount } = await show(aRound({ readings }));
    fireEvent.click(screen.getByRole("button", { name: "Leave it out" }));
    await waitFor(() => expect(server.to("PUT /rounds/r1/readings/")).toHaveLength(1));
    expect(server.to("PUT /rounds/r1/readings/")[0]?.body).toMatchObject({
      station: "9",
      withdrawn: true,
      supersedes: "d",
    });
    unmount();
    const gone = [
      ...readings.slice(0, 1),
      { ...readings[1], live: false },
      { ...reading("e", "9", "+0.1"), live: false, supersedes: "d" },
    ] as typeof readings;
    await show(aRound({ readings: gone }));
    fireEvent.click(screen.getByRole("button", { name: "Count it again" }));
    await waitFor(() => expect(server.to("PUT /rounds/r1/readings/")).toHaveLength(2));
    expect(server.to("PUT /rounds/r1/readings/")[1]?.body).toMatchObject({
      station: "9",
      text: "+0.1",
      withdrawn: false,
      supersedes: "e",
    });
    await flush();
  });

  it("says the finding, each quantity with its limit, the move, its caution and what to expect", async () => {
    const { container } = await show();
    const text = container.textContent ?? "";
    for (const part of [
      "It leans to the right.",
      "Lean",
      "0.31 mm/m",
      "0.1 mm/m",
      "Turn the head",
      "The head is heavy.",
      "to +5 div",
      "Lean should then be 0 ±0.05 mm/m",
      "Rests on the stated repeatability.",
    ])
      expect(text).toContain(part);
    expect(text.indexOf("The head is heavy.")).toBeLessThan(text.indexOf("Loosen."));
  });

  it("says one thing while a reading is pointed out: read it again", async () => {
    const again = words("9 stands 0.100 mm off what the others agree on: read it again.");
    const told = found("too_close", {});
    if (told.judgement) told.judgement.sentence = again;
    if (told.finding)
      told.finding.notes = [{ tone: "look", text: again, station: "9", wild: true }];
    if (told.advice) told.advice = { ...told.advice, moves: [], remarks: [again] };
    server.on("GET /rounds/r1/finding", told);
    const { container, readMore } = await show();
    expect(container.textContent?.split(again.metric)).toHaveLength(2);
    expect(screen.queryByText(/A finer instrument/)).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Look at the readings" }));
    expect(readMore).toHaveBeenCalledOnce();
  });

  it("keeps the remark beside what an earlier version judged in spite of it", async () => {
    const told = found("true", { advice: null });
    const wild = words("The readings at 9 disagree by 0.100 mm.");
    if (told.finding) told.finding.notes = [{ tone: "look", text: wild, station: "9", wild: true }];
    server.on("GET /rounds/r1/finding", told);
    const { container } = await show();
    expect(container.textContent).toContain(wild.metric);
    expect(screen.queryByRole("button", { name: "Look at the readings" })).toBeNull();
  });

  it("calls nothing true, nor out, before every station has been read", async () => {
    const speech = vi.fn();
    vi.stubGlobal("speechSynthesis", { speak: speech, cancel: vi.fn() });
    vi.stubGlobal("SpeechSynthesisUtterance", class {});
    localStorage.setItem("calm-square.settings", JSON.stringify({ speech: true }));
    const half = found("true", { ready: false, complete: false, advice: null });
    const left = {
      tone: "look" as const,
      text: words("9 was left out."),
      station: "9",
      wild: false,
    };
    if (half.finding) half.finding.notes = [...half.finding.notes, left];
    server.on("GET /rounds/r1/finding", half);
    const { container, readMore } = await show();
    const text = container.textContent ?? "";
    expect(text).toContain("Not all of it is read yet");
    expect(text).toContain("Still to be read: at 12, at 3");
    // the figures are there, as far as they go, and nobody judges them
    expect(text).toContain("0.31 mm/m");
    expect(text).not.toContain("It leans to the right.");
    expect(text).toContain("Rests on the stated repeatability.");
    expect(text).not.toContain("was left out");
    for (const word of ["True", "Out", "Too close"]) expect(text).not.toContain(word);
    expect(speech).not.toHaveBeenCalled();
    fireEvent.click(screen.getByRole("button", { name: "Go on reading" }));
    expect(readMore).toHaveBeenCalled();
    vi.unstubAllGlobals();
    // nor once it was put away like that
    cleanup();
    const settled = await show(aRound({ settled_at: "2026-03-01T20:00:00Z" }));
    const kept = settled.container.textContent ?? "";
    expect(kept).toContain("Not all of it was read");
    expect(kept).toContain("Not read: at 12, at 3");
    expect(kept).toContain("It judges nothing.");
    expect(screen.queryByRole("button", { name: "Go on reading" })).toBeNull();
  });

  it("calls bolts and pads by where they are in the reader's units", async () => {
    localStorage.setItem("calm-square.settings", JSON.stringify({ system: "inch" }));
    const here = { x_mm: 0, y_mm: 0, called: words("2nd 730 mm", "2nd 28.74 in") };
    const pad = { ...here, pad: "2nd 730 mm", before_mm: [], after_mm: [0.1] };
    const bolt = { ...here, place: "2nd 730 mm", turns: 0, amount_mm: 0.1, detail: null };
    const shims = move("shims", {
      stacks: [{ ...pad, words: words("0.1 mm", "0.004 in") }],
      amounts: [{ ...bolt, words: words("0.1 mm", "0.004 in") }],
    });
    const advice = { moves: [shims], leave: null, remarks: [] };
    server.on("GET /rounds/r1/finding", found("out", { advice: advice as never }));
    const { container } = await show();
    expect(container.textContent?.match(/2nd 28.74 in/g)?.length).toBeGreaterThanOrEqual(2);
    expect(container.textContent).not.toContain("730 mm");
  });

  it("without stock tells the height of each stack, and takes shims there and then", async () => {
    const stack = (place: string, height: number) => ({
      place,
      called: words(place, place),
      x_mm: 0,
      y_mm: 0,
      turns: 0,
      amount_mm: height,
      words: words(height ? `${height} mm` : "nothing"),
      detail: null,
    });
    const wanted = [stack("rear left", 0.12), stack("rear right", 0.12), stack("front left", 0)];
    const lacking = move("column", { needs: words("There is no shim stock in the kit."), wanted });
    const advice = (m: Schemas["Move"]) => ({ moves: [m], leave: null, remarks: [] });
    server
      .on("GET /rounds/r1/finding", found("out", { advice: advice(lacking) as never }))
      .on("POST /workshops/w1/shims", { id: "s1", words: words("0.1 mm") });
    await show();
    // each by its place, though they are alike; nothing is told of a pad that stays bare
    expect(screen.getByText("rear left")).toBeTruthy();
    expect(screen.getByText("rear right")).toBeTruthy();
    expect(screen.queryByText("front left")).toBeNull();
    expect(screen.queryByRole("button", { name: "Done: measure again" })).toBeNull();
    server.on("POST /workshops/w1/wanted", []);
    fireEvent.click(screen.getByRole("button", { name: "Put it on the list to buy" }));
    await screen.findByText("On the list.");
    expect(server.to("POST /workshops/w1/wanted")[0]?.body).toMatchObject({
      what: "Shims: rear left 0.12 mm, rear right 0.12 mm",
      sort: "shim",
    });
    fireEvent.click(screen.getByText("Some lie here all the same"));
    fireEvent.change(screen.getByLabelText("Thickness"), { target: { value: "0.1" } });
    fireEvent.change(screen.getByLabelText("Pieces"), { target: { value: "4" } });
    server.on("GET /rounds/r1/finding", found("out", { advice: advice(move("column")) as never }));
    fireEvent.click(screen.getByRole("button", { name: "Put in the tin" }));
    // the advice is made anew with them, without leaving the check
    expect(await screen.findByRole("button", { name: "Done: measure again" })).toBeTruthy();
    expect(server.to("POST /workshops/w1/shims")[0]?.body).toMatchObject({
      thickness_mm: "0.1 mm",
      count: 4,
    });
  });

  it("tells it in the reader's system", async () => {
    localStorage.setItem("calm-square.settings", JSON.stringify({ system: "inch" }));
    const { container } = await show();
    expect(container.textContent).toContain("It leans to the right. inch");
    expect(screen.getByRole("link", { name: "On paper" }).getAttribute("href")).toBe(
      "/api/v1/rounds/r1/sheet?move=head&system=inch",
    );
  });

  it("sends a move made with the advice it was of, and the needle read on the way", async () => {
    server.on("POST /rounds/r1/move", aCheck(aRound()));
    await show();
    fireEvent.change(screen.getByLabelText("Nipped, it reads"), { target: { value: "+5" } });
    fireEvent.change(screen.getByLabelText("Tight, it reads"), { target: { value: "+7" } });
    fireEvent.click(screen.getByRole("button", { name: "Done: measure again" }));
    await waitFor(() => expect(server.to("/move")).toHaveLength(1));
    expect(server.to("/move")[0]?.body).toMatchObject({
      advice: "advice-7",
      key: "head",
      said: "",
      needle: [
        { state: "nipped", station: "3", text: "+5" },
        { state: "tight", station: "3", text: "+7" },
      ],
    });
  });

  it("shows a refused needle at its own field and keeps what was typed", async () => {
    server.on(
      "POST /rounds/r1/move",
      new Refusal(422, [{ field: "needle.1.text", message: "No length.", expected: "Type +7." }]),
    );
    await show();
    const tight = screen.getByLabelText("Tight, it reads") as HTMLInputElement;
    fireEvent.change(tight, { target: { value: "x" } });
    fireEvent.click(screen.getByRole("button", { name: "Done: measure again" }));
    await screen.findByText("No length. Type +7.");
    expect(tight.getAttribute("aria-invalid")).toBe("true");
    expect(tight.value).toBe("x");
    const nipped = screen.getByLabelText("Nipped, it reads");
    expect(nipped.getAttribute("aria-invalid")).toBe("false");
  });

  it("says so when the advice has changed meanwhile", async () => {
    server.on("POST /rounds/r1/move", new Refusal(409, [], "The advice has changed."));
    await show();
    fireEvent.click(screen.getByRole("button", { name: "Done: measure again" }));
    await screen.findByText("The advice has changed.");
  });

  describe("a note that was being written", () => {
    const write = (text: string) =>
      fireEvent.change(screen.getByLabelText("Note for the logbook"), { target: { value: text } });
    const paths = () => server.sent.filter((s) => s.method === "POST").map((s) => s.path);

    it("goes into the logbook with the button that ends the round, whichever it is", async () => {
      server
        .on("POST /rounds/r1/notes", aCheck(aRound()))
        .on("POST /rounds/r1/move", aCheck(aRound()))
        .on("POST /rounds/r1/settle", aCheck(aRound()));
      for (const [button, ends] of [
        ["Done: measure again", "/rounds/r1/move"],
        ["Enter it in the logbook", "/rounds/r1/settle"],
      ]) {
        server.sent.length = 0;
        await show();
        write("The bolt creaks.");
        fireEvent.click(screen.getByRole("button", { name: button }));
        await waitFor(() => expect(paths()).toEqual(["/rounds/r1/notes", ends]));
        expect(server.to("/notes")[0]?.body).toMatchObject({ text: "The bolt creaks." });
        expect((screen.getByLabelText("Note for the logbook") as HTMLInputElement).value).toBe("");
        cleanup();
      }
    });

    it("stays in its field when it cannot be kept, and the round stays open with it", async () => {
      server.on("POST /rounds/r1/notes", SILENCE);
      await show();
      write("The bolt creaks.");
      fireEvent.click(screen.getByRole("button", { name: "Done: measure again" }));
      await screen.findByText(/cannot be reached/);
      expect(paths()).toEqual(["/rounds/r1/notes"]);
      cleanup();
      // another page of the same sitting finds it
      await show();
      const field = screen.getByLabelText("Note for the logbook") as HTMLInputElement;
      expect(field.value).toBe("The bolt creaks.");
      server.on("POST /rounds/r1/notes", aCheck(aRound()));
      fireEvent.click(screen.getByRole("button", { name: "Add" }));
      await waitFor(() => expect(field.value).toBe(""));
      const [first, second] = server.to("/notes");
      expect(second?.body.id).toBe(first?.body.id);
    });

    it("is a note of its own when it was changed after it may have been kept", async () => {
      server.on("POST /rounds/r1/notes", SILENCE);
      await show();
      write("The bolt creaks.");
      fireEvent.click(screen.getByRole("button", { name: "Add" }));
      await screen.findByText(/cannot be reached/);
      server.on("POST /rounds/r1/notes", aCheck(aRound()));
      write("The bolt creaks, left.");
      fireEvent.click(screen.getByRole("button", { name: "Add" }));
      await waitFor(() => expect(server.to("/notes")).toHaveLength(2));
      const [first, second] = server.to("/notes");
      expect(second?.body.id).not.toBe(first?.body.id);
    });
  });

  it("keeps what was done instead in the person's own words", async () => {
    server.on("POST /rounds/r1/move", aCheck(aRound()));
    await show();
    fireEvent.click(screen.getByRole("button", { name: "I did something else" }));
    fireEvent.change(screen.getByLabelText("What did you do instead?"), {
      target: { value: "Oiled it." },
    });
    fireEvent.click(screen.getByRole("button", { name: "Done: measure again" }));
    await waitFor(() => expect(server.to("/move")).toHaveLength(1));
    expect(server.to("/move")[0]?.body).toMatchObject({ key: null, said: "Oiled it." });
  });

  it("offers no Done for a move that lacks something, and says what", async () => {
    const lacks = move("packs", { needs: words("0.35 mm is the nearest that is sold.") });
    server.on("GET /rounds/r1/finding", found("out", { advice: { moves: [lacks], leave: null } }));
    const { container } = await show();
    expect(container.textContent).toContain("nearest that is sold");
    expect(screen.queryByRole("button", { name: "Done: measure again" })).toBeNull();
    expect(screen.queryByRole("link", { name: "On paper" })).toBeNull();
  });

  it("shows one move in full, and lets another be looked at where it is one or the other", async () => {
    const moves = [move("head"), move("shims", { instead: true }), move("gib", {})];
    server.on("GET /rounds/r1/finding", found("out", { advice: { moves, leave: null } }));
    await show();
    expect(screen.getAllByRole("region", { name: "What to do" })).toHaveLength(1);
    fireEvent.click(screen.getByRole("button", { name: "Look at it" }));
    expect(screen.getByRole("heading", { name: "Turn the shims" })).toBeTruthy();
  });

  it("asks for more passes where they would decide it, before anything is moved", async () => {
    const way_out = {
      passes: 4,
      passes_sure: 6,
      needed_expanded: 0.01,
      text: words("Four passes would tell."),
    };
    server.on("GET /rounds/r1/finding", found("too_close", {}, way_out));
    const { readMore } = await show();
    fireEvent.click(screen.getByRole("button", { name: "Take 4 passes in all" }));
    expect(readMore).toHaveBeenCalledWith(4);
    // one thing shouts at a time
    const done = screen.getByRole("button", { name: "Done: measure again" });
    expect(done.className).toContain("outlined");
  });

  it("says true without a move to make, and enters it in the logbook", async () => {
    server.on(
      "GET /rounds/r1/finding",
      found("true", { advice: { moves: [], leave: { text: words("Leave it.") } } }),
    );
    server.on("POST /rounds/r1/settle", aCheck(aRound({ settled_at: "2026-03-01T20:00:00Z" })));
    await show();
    expect(screen.queryByRole("region", { name: "What to do" })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Enter it in the logbook" }));
    await waitFor(() => expect(server.to("POST /rounds/r1/settle")).toHaveLength(1));
  });

  it("changes nothing of what is settled, or for those who may only look", async () => {
    const settled = aRound({ settled_at: "2026-03-01T20:00:00Z" });
    await show(settled);
    expect(screen.queryByRole("button", { name: /Done|logbook|Leave it/ })).toBeNull();
    expect(screen.getByRole("button", { name: "Measure another round" })).toBeTruthy();
    cleanup();
    await show(settled, { can_write: false });
    expect(screen.queryByRole("button", { name: "Measure another round" })).toBeNull();
    expect(screen.queryByRole("region", { name: "What to do" })).toBeNull();
  });

  it("says why nothing can be told yet", async () => {
    server.on("GET /rounds/r1/finding", {
      ...found("out"),
      finding: null,
      judgement: null,
      problem: "At 3 was left out.",
    });
    await show();
    await screen.findByText("At 3 was left out.");
  });

  it("sets what was predicted beside what came of it", async () => {
    const { container } = await show(
      aRound({
        predicted: [
          {
            quantity: "lean_x",
            after: estimate(0),
            label: words("Lean", "Lean"),
            words: words("0 ±0.05 mm/m"),
          },
        ],
      }),
    );
    expect(container.textContent).toContain("predicted: 0 ±0.05 mm/m");
  });

  it("takes whoever gave the last reading to the finding, and nobody who only looks in", async () => {
    await show();
    expect(document.activeElement).toBe(document.body);
    cleanup();
    draw(
      <Settle check={aCheck(aRound())} round={aRound()} title="Tram" readMore={vi.fn()} arrived />,
    );
    const finding = await screen.findByRole("status", { name: "Finding" });
    await waitFor(() => expect(document.activeElement).toBe(finding));
  });

  it("is left as it is with a reason, and only then goes into the logbook", async () => {
    const refused = {
      field: "reason",
      message: "A decision needs its reason.",
      expected: "Say why it may stay.",
    };
    const told = `${refused.message} ${refused.expected}`;
    server
      .on("POST /machines/m1/decisions", new Refusal(422, [refused], told))
      .on("POST /rounds/r1/settle", aCheck(aRound({ settled_at: "2026-03-01T20:00:00Z" })));
    await show();
    fireEvent.click(screen.getByRole("button", { name: "Leave it as it is" }));
    const reason = screen.getByLabelText("Why it may stay as it is");
    fireEvent.click(screen.getByRole("button", { name: "Leave it as it is" }));
    // said once
    await screen.findByText(told);
    expect(server.to("POST /rounds/r1/settle")).toHaveLength(0);
    server.on("POST /machines/m1/decisions", {});
    fireEvent.change(reason, { target: { value: "Only slots are cut here." } });
    fireEvent.click(screen.getByRole("button", { name: "Leave it as it is" }));
    await waitFor(() => expect(server.to("POST /rounds/r1/settle")).toHaveLength(1));
    expect(server.to("POST /machines/m1/decisions").at(-1)?.body).toMatchObject({
      kind: "spindle_tram",
      reason: "Only slots are cut here.",
    });
  });
});
