import { cleanup, fireEvent, renderHook, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { RoundState } from "../../api/client";
import { flush, post, sendFor } from "../../api/outbox";
import { keepNews, keys, useCheck } from "../../api/queries";
import {
  atTheMachine,
  field,
  kept,
  living,
  onNews,
  outgoing,
  read,
  sentReadings,
  server,
  show,
  soon,
  type,
  understoodSlowly,
} from "../../testing/reading";
import {
  aCheck,
  aRound,
  dial,
  draw,
  preview,
  Refusal,
  reading,
  SILENCE,
  station,
  words,
} from "../../testing/shed";
import { Read } from "./Read";
import { isolatedKey } from "./useIsolated";
import { nextStation, useStations } from "./useStations";

atTheMachine();

describe("reading at the machine", () => {
  it("asks for the machine to be isolated before hands go near it, once a sitting", () => {
    sessionStorage.clear();
    const { container } = show();
    expect(container.textContent).toContain("isolate the machine");
    expect(screen.queryByRole("textbox")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "It is isolated" }));
    expect(field().value).toBe("");
    expect(sessionStorage.getItem(isolatedKey("m1"))).toBe("isolated");
  });

  it("takes neither statement for the other, and the one takes the other back", () => {
    const asked = (powered: boolean) => {
      cleanup();
      show(aRound(), { powered });
      return screen.queryByRole("textbox") === null;
    };
    expect(asked(false)).toBe(false);
    expect(asked(true)).toBe(true);
    fireEvent.click(screen.getByRole("button", { name: "That is seen to" }));
    expect(asked(true)).toBe(false);
    expect(asked(false)).toBe(true);
  });

  it("warns otherwise of what has to move by itself", () => {
    sessionStorage.clear();
    const { container } = show(aRound(), { powered: true });
    expect(container.textContent).toContain("hands clear of what moves");
    expect(container.textContent).not.toContain("isolate");
  });

  it("takes what its big keys say, turns the sign and takes the last one back", async () => {
    show();
    const press = (name: string) => fireEvent.click(screen.getByRole("button", { name }));
    const said = (...names: string[]) => {
      for (const name of names) press(name);
      return field().value;
    };
    expect(said("1", ".", "2")).toBe("1.2");
    expect(said("change the sign")).toBe("-1.2");
    expect(said("5", "Delete the last character", "7")).toBe("-1.27");
    expect(said("change the sign")).toBe("+1.27");
    expect(said("change the sign")).toBe("-1.27");
    fireEvent.change(field(), { target: { value: "−0.4" } });
    expect(said("change the sign", "0")).toBe("+0.40");
    press("Enter");
    await waitFor(() => expect(sentReadings()).toMatchObject([{ station: "12", text: "+0.40" }]));
    // the keys that are not drawn anew go by what is in hand now
    await waitFor(() => expect(field().value).toBe(""));
    expect(said("3")).toBe("3");
  });

  it("sends what was typed, as typed, to the station in hand", async () => {
    show();
    expect(screen.getByText("Go to 12.")).toBeTruthy();
    type(" +1.5 ");
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(sentReadings()[0]).toMatchObject({
      station: "12",
      text: "+1.5",
      unit: "div",
      accepted: false,
      withdrawn: false,
      supersedes: null,
    });
    expect(field().value).toBe("");
  });

  it("says where to go in the reader's units, and asks for problems in them", async () => {
    localStorage.setItem("calm-square.settings", JSON.stringify({ system: "inch" }));
    const there = station("12", {
      label: words("−250 mm", "−9.84 in"),
      prompt: words("Touch off at −250 mm.", "Touch off at −9.84 in."),
    });
    const { container } = show(aRound({ stations: [there] }));
    expect(screen.getByRole("textbox", { name: /^Reading at −9.84 in, / })).toBeTruthy();
    expect(container.textContent).toContain("Touch off at −9.84 in.");
    expect(container.textContent).not.toContain("250 mm");
    type("1.5");
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(new Set(server.sent.map((s) => s.reads))).toEqual(new Set(["inch"]));
  });

  it("begins in the unit that this person read the instrument in last, and nobody else", async () => {
    const unit = () => screen.getByRole("combobox", { name: "Unit of the reading" });
    show();
    expect(unit().textContent).toBe("div");
    fireEvent.mouseDown(unit());
    fireEvent.click(screen.getByRole("option", { name: "mm" }));
    type("0.018");
    await waitFor(() => expect(sentReadings()[0]).toMatchObject({ unit: "mm" }));
    cleanup();
    show(aRound({ id: "r2" }));
    expect(unit().textContent).toBe("mm");
    cleanup();
    sendFor("2");
    show(aRound({ id: "r2" }));
    expect(unit().textContent).toBe("div");
    sendFor("1");
  });

  describe("while the one before is still being understood", () => {
    let answer: (told: unknown) => void;

    beforeEach(() => {
      answer = understoodSlowly("+3", "rubbish");
    });

    it("keeps the keys that are typed, and sends each reading to its own station", async () => {
      living();
      type("+3");
      expect(field().value).toBe("");
      fireEvent.change(field(), { target: { value: "+8" } });
      await soon();
      answer(preview("+3"));
      await waitFor(() => expect(sentReadings()).toHaveLength(1));
      expect(field().value).toBe("+8");
      fireEvent.keyDown(field(), { key: "Enter" });
      await waitFor(() => expect(sentReadings()).toHaveLength(2));
      expect(sentReadings().map((b) => [b.station, b.text])).toEqual([
        ["12", "+3"],
        ["3", "+8"],
      ]);
    });

    it("never goes back to a station, not even while the record's answer is put in its place", async () => {
      server.on("GET /checks/c1", aCheck(aRound()));
      const seen: (string | undefined)[] = [];
      const order = ["12", "3", "6", "9"];
      server.on("PUT /rounds/r1/readings/", (sent: Parameters<typeof kept>[0]) => ({
        ...kept(sent),
        next_station: order[order.indexOf(String(sent.body.station)) + 1],
      }));
      function Stations({ round }: { round: RoundState }) {
        seen.push(useStations(round, 1).next?.key);
        return null;
      }
      // the round comes from above, as on the page; what waits is heard of below it
      function Page() {
        const check = useCheck("c1").data;
        return check?.rounds[0] ? <Stations round={check.rounds[0]} /> : null;
      }
      const { client } = draw(<Page />);
      onNews((news) => keepNews(client, news));
      await waitFor(() => expect(client.getQueryData(keys.check("c1"))).toBeTruthy());
      for (const at of order.slice(0, 3)) {
        await post(outgoing(at));
        await flush();
        await waitFor(() => expect(seen.at(-1)).toBe(order[order.indexOf(at) + 1]));
        await new Promise((r) => setTimeout(r, 20));
      }
      expect(seen.filter((key, at) => key !== seen[at - 1])).toEqual(order);
    });

    it("lets several wait in line, with the zero that was set between them", async () => {
      living();
      type("+3");
      fireEvent.click(screen.getByRole("button", { name: "Zero at at 12" }));
      type("+8");
      type("-2");
      await soon();
      expect(sentReadings()).toHaveLength(0);
      answer(preview("+3"));
      await waitFor(() => expect(sentReadings()).toHaveLength(3));
      expect(sentReadings().map((b) => [b.station, b.text])).toEqual([
        ["12", "+3"],
        ["3", "+8"],
        ["6", "-2"],
      ]);
      const [first, second] = server.to("PUT /rounds/r1/readings/");
      expect(first?.body.zeroed_on).toBeNull();
      expect(first?.path).toContain(String(second?.body.zeroed_on));
    });

    it("asks about the one before without taking the keys of the next", async () => {
      living();
      type("rubbish");
      fireEvent.change(field(), { target: { value: "+8" } });
      await soon();
      answer(new Refusal(422, [{ field: "text", message: "Not a length.", expected: "Try 1." }]));
      expect((await screen.findByRole("alert")).textContent).toContain(
        "rubbish at at 12 is not kept yet: Not a length. Try 1.",
      );
      expect(field().value).toBe("+8");
      fireEvent.keyDown(field(), { key: "Enter" });
      await soon();
      expect(sentReadings()).toHaveLength(0);
      expect(screen.getByRole("alert").textContent).toContain("1 reading after it waits");
      const anew = screen.getByRole("textbox", { name: /Type it anew/ });
      fireEvent.change(anew, { target: { value: "+1" } });
      fireEvent.click(screen.getByRole("button", { name: "Enter it so" }));
      await waitFor(() => expect(sentReadings()).toHaveLength(2));
      expect(sentReadings().map((b) => [b.station, b.text])).toEqual([
        ["12", "+1"],
        ["3", "+8"],
      ]);
    });

    it("puts what came back to be mended before what was entered after it", async () => {
      living();
      type("rubbish");
      type("+8");
      await soon();
      answer(new Refusal(422, [{ field: "text", message: "Not a length.", expected: "" }]));
      // nothing had been typed on: the text is back in the field, to be mended there
      await waitFor(() => expect(field().value).toBe("rubbish"));
      type("+2");
      await waitFor(() => expect(sentReadings()).toHaveLength(2));
      expect(sentReadings().map((b) => b.text)).toEqual(["+2", "+8"]);
    });
  });

  it("keeps what is typed when the session has ended", async () => {
    const ended = new Refusal(401, [], "Sign in to go on.");
    server.on("POST /rounds/r1/preview", ended).on("PUT /rounds/r1/readings/", ended);
    show();
    type("+3");
    await waitFor(() => expect(sentReadings().length).toBeGreaterThan(0));
    expect(screen.queryByText("Sign in to go on.")).toBeNull();
    server.on("PUT /rounds/r1/readings/", kept);
    await waitFor(async () => {
      await flush();
      expect(screen.queryByText(/not sent yet/)).toBeNull();
    });
    expect(sentReadings().at(-1)?.text).toBe("+3");
  });

  it("sends nothing for an empty field", async () => {
    show();
    type("  ");
    await new Promise((r) => setTimeout(r, 30));
    expect(server.sent).toHaveLength(0);
  });

  it("keeps what cannot be read in the field and says what to do", async () => {
    server.on(
      "POST /rounds/r1/preview",
      new Refusal(422, [{ field: "text", message: "That is no length.", expected: "Type 1.5." }]),
    );
    show();
    type("abc");
    await screen.findByText("That is no length. Type 1.5.");
    expect(field().value).toBe("abc");
    expect(field().getAttribute("aria-invalid")).toBe("true");
    expect(sentReadings()).toHaveLength(0);
  });

  it("asks about a doubtful reading and sends it only when it is meant", async () => {
    const question = {
      about: "turns" as const,
      text: words("More than a quarter turn?"),
      choices: [-0.4, 1.6],
      choice_words: [words("−0.4 mm"), words("1.6 mm")],
    };
    server.on("POST /rounds/r1/preview", preview("60", { question }));
    show();
    type("60");
    await screen.findByText("More than a quarter turn?");
    // the second half of a double press answers nothing; it comes at once, however busy it is here
    const atOnce = vi.spyOn(performance, "now").mockReturnValue(0);
    fireEvent.keyDown(field(), { key: "Enter" });
    atOnce.mockRestore();
    await soon();
    expect(sentReadings()).toHaveLength(0);
    await read();
    fireEvent.keyDown(field(), { key: "Enter" });
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(sentReadings()[0]).toMatchObject({ text: "60", accepted: true });
  });

  describe("with a question before it", () => {
    const question = {
      about: "turns" as const,
      text: words("More than a quarter turn?"),
      choices: [-0.4, 1.6],
      choice_words: [words("−0.4 mm"), words("1.6 mm")],
    };

    it.each([
      ["ArrowDown", "-0.4"],
      ["ArrowUp", "+1.6"],
    ])("is answered by one key: %s", async (key, text) => {
      server.on("POST /rounds/r1/preview", preview("60", { question, shown_mm: 0.6 }));
      show();
      type("60");
      await screen.findByText("More than a quarter turn?");
      fireEvent.keyDown(field(), { key });
      await waitFor(() => expect(sentReadings()).toHaveLength(1));
      expect(sentReadings()[0]).toMatchObject({ text, unit: "mm", accepted: true });
    });

    it("begins anew with the next key, and digits do not pile up", async () => {
      server.on("POST /rounds/r1/preview", (s: { body: { text: string } }) =>
        preview(s.body.text, s.body.text === "60" ? { question } : {}),
      );
      show();
      type("60");
      await screen.findByText("More than a quarter turn?");
      // as a browser does it: the key goes behind what stands there
      fireEvent.change(field(), { target: { value: "60+" } });
      expect(field().value).toBe("+");
      expect(screen.queryByText("More than a quarter turn?")).toBeNull();
      fireEvent.change(field(), { target: { value: "+3" } });
      fireEvent.keyDown(field(), { key: "Enter" });
      await waitFor(() => expect(sentReadings()).toHaveLength(1));
      expect(sentReadings()[0]).toMatchObject({ text: "+3", accepted: false });
    });

    it("never takes by a key what the instrument cannot show", async () => {
      const range = {
        about: "range" as const,
        text: words("More than its travel."),
        choices: [],
        choice_words: [],
      };
      server.on("POST /rounds/r1/preview", preview("9999", { question: range }));
      show();
      type("9999");
      await screen.findByText("More than its travel.");
      await read();
      fireEvent.keyDown(field(), { key: "Enter" });
      fireEvent.keyDown(field(), { key: "Enter" });
      await soon();
      expect(sentReadings()).toHaveLength(0);
      fireEvent.click(screen.getByRole("button", { name: /^Keep/ }));
      await waitFor(() => expect(sentReadings()).toHaveLength(1));
    });
  });

  it("goes on without a connection: the reading waits and the next station comes", async () => {
    server.on("POST /rounds/r1/preview", SILENCE).on("PUT /rounds/r1/readings/", SILENCE);
    show();
    type("+2");
    await screen.findByText("1 kept here, not sent yet.");
    expect(screen.getByText("Go to 3.")).toBeTruthy();
    server.on("PUT /rounds/r1/readings/", kept);
    window.dispatchEvent(new Event("online"));
    await waitFor(() => expect(screen.queryByText("1 kept here, not sent yet.")).toBeNull());
  });

  it("corrects and withdraws by a new reading that replaces the old one", async () => {
    const readings = [reading("a", "12", "+1"), reading("b", "3", "+4")];
    show(aRound({ readings, next_station: "6" }));
    fireEvent.click(screen.getByRole("button", { name: "Back one" }));
    expect(field().value).toBe("+4");
    expect(screen.getByText(/^Correct at 3: it says/)).toBeTruthy();
    type("+5");
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(sentReadings()[0]).toMatchObject({ station: "3", text: "+5", supersedes: "b" });
    fireEvent.click(screen.getByRole("button", { name: /^Correct at 12/ }));
    fireEvent.click(screen.getByRole("button", { name: "It should not count" }));
    await waitFor(() => expect(sentReadings()).toHaveLength(2));
    expect(sentReadings()[1]).toMatchObject({ station: "12", withdrawn: true, supersedes: "a" });
  });

  it("remembers that the dial was zeroed, and on what", async () => {
    show(aRound({ readings: [reading("a", "12", "+1")], next_station: "3" }));
    fireEvent.click(screen.getByRole("button", { name: "Zero at at 12" }));
    expect(screen.getByText("The dial was set to zero at at 12.")).toBeTruthy();
    type("-3");
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(sentReadings()[0]).toMatchObject({ station: "3", zeroed_on: "a" });
  });

  it("asks a station for its place and its own instrument, and sends both", async () => {
    const caliper = { ...dial, id: "caliper", name: "Caliper", type: "caliper" };
    server.on("GET /workshops/w1/kit", { instruments: [dial, caliper] });
    const thick = station("thick", { where: "Where on the plate", takes: ["caliper"] });
    const round = aRound({ stations: [thick, station("3")], next_station: "thick" });
    const { again, props } = show(round);
    const place = screen.getByLabelText("Where on the plate, X");
    await waitFor(() => expect(screen.getByRole("combobox", { name: "Read with" })).toBeTruthy());
    fireEvent.change(place, { target: { value: "40 mm" } });
    type("25.1");
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(sentReadings()[0]).toMatchObject({ x: "40 mm", y: "", instrument_id: "caliper" });
    expect(server.to("/preview").at(-1)?.body).toMatchObject({ instrument_id: "caliper" });
    // the next station has no use for either
    again(<Read {...props} round={{ ...round, next_station: "3" }} />);
    expect(screen.queryByLabelText("Where on the plate, X")).toBeNull();
    type("+1");
    await waitFor(() => expect(sentReadings()).toHaveLength(2));
    expect(sentReadings()[1]).toMatchObject({ station: "3", x: "", instrument_id: null });
  });

  it("says why the simulated machine gave no answer, at every sort of station", async () => {
    const felt = station("step", {
      reads: "grade",
      grades: [{ key: "none", label: "nothing", tone: "good" }],
    });
    server.on("POST /rounds/r1/standin", new Refusal(409, [], "This machine is a real one."));
    const { container } = show(aRound({ stations: [felt], next_station: "step" }), {
      has_standin: true,
    });
    fireEvent.click(screen.getByRole("button", { name: "Ask the simulated machine" }));
    await waitFor(() => expect(screen.getByRole("alert").textContent).toContain("a real one"));
    expect(sentReadings()).toHaveLength(0);
    // asked again, it answers: the reason goes
    server.on("POST /rounds/r1/standin", { text: "", unit: "mm", grade: "none", note: "" });
    fireEvent.click(screen.getByRole("button", { name: "Ask the simulated machine" }));
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(sentReadings()[0]).toMatchObject({ station: "step", grade: "none", accepted: true });
    expect(container.textContent).not.toContain("a real one");
  });

  it("takes a log from a file as one record, and says which line cannot be read", async () => {
    const log = station("log", { reads: "log" });
    const refusal = { field: "text", message: "Line 2 is no point.", expected: "Two figures." };
    server.on("PUT /rounds/r1/logs/", new Refusal(422, [refusal]));
    show(aRound({ stations: [log], next_station: "log" }));
    expect(screen.queryByRole("textbox", { name: /^Reading/ })).toBeNull();
    const choose = (text: string) =>
      fireEvent.change(screen.getByLabelText("Log file"), {
        target: { files: [new File([text], "run.csv")] },
      });
    choose("x z\nhm");
    await screen.findByText("Line 2 is no point. Two figures.");
    server.on("PUT /rounds/r1/logs/", kept);
    choose("x z\n0 0.1\n1 0.2");
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
    expect(server.to("/logs/").at(-1)?.body).toMatchObject({
      station: "log",
      text: "x z\n0 0.1\n1 0.2",
      unit: "mm",
    });
  });

  it("is locked for those who may only look, and once it is settled", () => {
    sessionStorage.clear();
    show(aRound(), { can_write: false });
    expect(field().disabled).toBe(true);
    cleanup();
    show(aRound({ settled_at: "2026-03-01T20:00:00Z" }));
    expect(field().disabled).toBe(true);
    expect(screen.queryByRole("button", { name: "Paste readings" })).toBeNull();
  });

  it("leads to the finding once, when the last planned reading is in the record", () => {
    const readings = ["12", "3", "6", "9"].map((s) => reading(s, s, "+1"));
    const open = aRound({ readings: readings.slice(0, 3), next_station: "9" });
    const { done, again, props } = show(open);
    expect(done).not.toHaveBeenCalled();
    const full = aRound({ readings, next_station: null });
    again(<Read {...props} round={full} />);
    expect(done).toHaveBeenCalledTimes(1);
    again(<Read {...props} round={{ ...full, version: 2 }} />);
    expect(done).toHaveBeenCalledTimes(1);
  });
});

describe("the plan of a round", () => {
  it("shows texts as typed, the unit only where it is not the instrument's own", () => {
    const round = aRound({
      readings: [
        reading("a", "12", "+1 div"),
        reading("b", "12", "2", { unit: "mm" }),
        reading("c", "3", "9", { live: false }),
      ],
    });
    const { result } = renderHook(() => useStations(round, 1));
    expect(result.current.values["12"]?.texts).toEqual(["+1", "2 mm"]);
    expect(result.current.values["3"]).toBeUndefined();
    expect(result.current.live.map((r) => r.id)).toEqual(["a", "b"]);
    expect(result.current.next?.key).toBe("12");
  });

  it("comes back to where a plan of one pass began, and says so", () => {
    const read = ["12", "3", "6", "9"].map((key, i) => reading(`r${i}`, key, "+1"));
    const turn = ["12", "3", "6", "9", "12"];
    show(aRound({ readings: read, turn, next_station: "12" }));
    expect(screen.getByText("Back to the start. Go to 12.")).not.toBeNull();
  });

  it("goes by what the server says, and by itself only where the server cannot know", () => {
    const stations = [
      station("seen", { reads: "grade", grades: [{ key: "ok", label: "fine", tone: "good" }] }),
      station("12"),
      station("3"),
    ];
    const turn = ["seen", "12", "3", "12", "3"];
    const round = aRound({ stations, turn, passes: 2, next_station: "3" });
    const value = (n: number) => ({ texts: Array(n).fill("+1"), waiting: false });
    const at = (counts: number[], passes: number, waiting: boolean) =>
      nextStation(
        round,
        Object.fromEntries(stations.map((s, i) => [s.key, value(counts[i] ?? 0)])),
        passes,
        waiting,
      )?.key;
    expect(at([0, 0, 0], 2, false)).toBe("3");
    expect(at([0, 0, 0], 2, true)).toBe("seen");
    expect(at([1, 1, 0], 2, true)).toBe("3");
    // a grade is asked for once, whatever is read again
    expect(at([1, 1, 1], 2, true)).toBe("12");
    expect(at([1, 2, 1], 2, true)).toBe("3");
    expect(at([1, 2, 2], 2, true)).toBeUndefined();
    // more than planned: the first with the fewest
    expect(at([1, 3, 2], 3, true)).toBe("3");
  });
});
