import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { RoundState, Schemas } from "../../api/client";
import {
  aCheck,
  aRound,
  dial,
  draw,
  Refusal,
  type Sent,
  Server,
  tram,
  words,
} from "../../testing/shed";
import { SetUp } from "./SetUp";
import { isolatedKey } from "./useIsolated";

let server: Server;

const fine = { ...dial, id: "fine", name: "Lever", type: "lever_dial" };
const blades = { ...dial, id: "blades", name: "Blades", type: "feeler_blades" };
const old = { ...dial, id: "old", name: "Put away", archived: true };

const choice = (id: string, share: number): Schemas["Choice"] => ({
  id,
  name: id,
  enough: share <= 0.25,
  share,
  words: words(`±${share} of it`),
});

const kit = (instruments: Schemas["InstrumentOut"][]) => ({
  instruments,
  shims: [],
  pieces: [],
  forms: [],
  piece_forms: [],
  shim_schema: {},
  can_write: true,
});

beforeEach(() => {
  sessionStorage.setItem(isolatedKey("m1"), "isolated");
  server = new Server()
    .on("GET /workshops/w1/kit", kit([dial, blades, old, fine]))
    .on("GET /machines/m1", { id: "m1", spec: { head: {}, column: null }, stages: [] })
    .on("POST /rounds/r1/instruments", {
      choices: [choice("fine", 0.1), choice("dial", 0.4)],
      none: null,
    })
    .on("PUT /rounds/r1/setup", aCheck(aRound()));
});
afterEach(() => {
  cleanup();
  sessionStorage.clear();
});

const begun = (more: Partial<RoundState> = {}) =>
  aRound({
    setup: null,
    instrument_id: null,
    suggested: { kind: "spindle_tram", way: "swing", radius_mm: 115, passes: 2 },
    suggested_shown: { radius_mm: words("115 mm", "4.5276 in") },
    ...more,
  });

async function show(round: RoundState = begun(), more = {}, kind = tram) {
  const done = vi.fn();
  const props = { check: aCheck(round, more), kind, round, done };
  const drawn = draw(<SetUp {...props} />);
  await screen.findByRole("button", { name: /Start reading|Keep and go on/ });
  return { ...drawn, done };
}

const start = () => fireEvent.click(screen.getByRole("button", { name: "Start reading" }));
const sent = () => server.to("PUT /rounds/r1/setup").map((s) => s.body);

/** Whether it is asked for a set-up as it was proposed. */
const at115 = (s: Sent) => /^115/.test(String((s.body.setup as { radius_mm: unknown }).radius_mm));

describe("setting up a round", () => {
  it("proposes, takes the finest that suits, and sends both", async () => {
    const { done } = await show();
    expect((screen.getByLabelText("Radius") as HTMLInputElement).value).toBe("115 mm");
    await screen.findByText(/The finest you have for this\./);
    start();
    await waitFor(() => expect(done).toHaveBeenCalledTimes(1));
    expect(sent()[0]).toMatchObject({
      version: 1,
      instrument_id: "fine",
      setup: { radius_mm: "115 mm", passes: "2" },
    });
  });

  it("offers what suits this way of reading, and nothing that was put away", async () => {
    await show();
    fireEvent.mouseDown(screen.getByRole("combobox", { name: "Instrument" }));
    const names = (await screen.findAllByRole("option")).map((o) => o.textContent);
    expect(names.map((n) => n?.split("±")[0])).toEqual(["Plunger", "Lever"]);
    fireEvent.click(screen.getByRole("option", { name: /Plunger/ }));
    start();
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]).toMatchObject({ instrument_id: "dial" });
  });

  it("tells the steps of the way that is picked", async () => {
    const way = {
      title: "How",
      enum: ["swing", "trigger"],
      default: "swing",
      "x-form": { field: "choice", labels: { swing: "a dial swung", trigger: "touched off" } },
    };
    const guide = {
      ...tram.guide,
      steps: [words("Swing it round.")],
      by_way: { trigger: [words("Lower it by 2 mm.", "Lower it by 0.079 in.")] },
    };
    const schema = { properties: { kind: { const: "spindle_tram" }, way } };
    const takes = { swing: ["plunger_dial"], trigger: ["plunger_dial"] };
    await show(begun(), { setup_schema: schema }, { ...tram, takes, guide } as typeof tram);
    expect(screen.getByText("Swing it round.")).toBeTruthy();
    fireEvent.mouseDown(screen.getByRole("combobox", { name: "How" }));
    fireEvent.click(await screen.findByRole("option", { name: "touched off" }));
    expect(await screen.findByText("Lower it by 2 mm.")).toBeTruthy();
    expect(screen.queryByText("Swing it round.")).toBeNull();
  });

  it("does not begin before the machine is isolated, and says so where it is asked", async () => {
    sessionStorage.clear();
    await show();
    start();
    expect((await screen.findByRole("alert")).textContent).toContain("Isolate the machine first");
    expect(sent()).toHaveLength(0);
    fireEvent.click(screen.getByRole("checkbox"));
    expect(screen.queryByRole("alert")).toBeNull();
    start();
    await waitFor(() => expect(sent()).toHaveLength(1));
    // once a sitting for this machine, and anew for another
    const asked = async (machine_id: string) => {
      cleanup();
      await show(begun(), { machine_id });
      return !(screen.getByRole("checkbox") as HTMLInputElement).checked;
    };
    server.on("GET /machines/m2", { id: "m2", spec: {}, stages: [] });
    expect(await asked("m1")).toBe(false);
    expect(await asked("m2")).toBe(true);
  });

  it("shows a refusal at its field and goes nowhere", async () => {
    server.on(
      "PUT /rounds/r1/setup",
      new Refusal(422, [
        { field: "setup.radius_mm", message: "Too short.", expected: "Reach further out." },
      ]),
    );
    const { done } = await show();
    start();
    await screen.findByText(/Too short\./);
    expect(screen.getByLabelText("Radius").getAttribute("aria-invalid")).toBe("true");
    expect(done).not.toHaveBeenCalled();
  });

  it("says beside a switch why it was refused, and goes on with every figure once it is mended", async () => {
    const schema = {
      properties: {
        kind: { const: "drive_proof" },
        proven: { title: "Stops are tested", default: false, "x-form": { field: "switch" } },
        start: { title: "First step", "x-form": { field: "number" } },
        places_mm: { title: "Places", "x-form": { field: "lengths" } },
      },
    };
    const refusal = { field: "setup.proven", message: "Test the stops first.", expected: "" };
    server.on("PUT /rounds/r1/setup", (s: Sent) =>
      (s.body.setup as { proven: boolean }).proven ? aCheck(begun()) : new Refusal(422, [refusal]),
    );
    const { done } = await show(begun(), { setup_schema: schema });
    fireEvent.change(screen.getByLabelText("First step"), { target: { value: "1700" } });
    start();
    const box = screen.getByRole("switch", { name: "Stops are tested" });
    await waitFor(() => expect(box.getAttribute("aria-invalid")).toBe("true"));
    expect(screen.getByText("Test the stops first.")).toBeTruthy();
    fireEvent.click(box);
    expect(screen.queryByText("Test the stops first.")).toBeNull();
    expect((screen.getByLabelText("First step") as HTMLInputElement).value).toBe("1700");
    start();
    await waitFor(() => expect(done).toHaveBeenCalledTimes(1));
    expect(sent().at(-1)).toMatchObject({ setup: { proven: true, start: "1700" } });
  });

  it("says of a list, and of what the form does not ask, what was wrong, and begins once mended", async () => {
    const places = { title: "Places", "x-form": { field: "lengths" } };
    const schema = { properties: { kind: { const: "x" }, places_mm: places } };
    const errors = [
      { field: "setup.places_mm.2", message: "Not a length.", expected: "Type 40 mm." },
      { field: "setup.hidden_mm", message: "It is too far.", expected: "" },
    ];
    server.on("PUT /rounds/r1/setup", new Refusal(422, errors));
    const { done } = await show(begun(), { setup_schema: schema });
    fireEvent.change(screen.getByLabelText("Places"), { target: { value: "0, 20, x" } });
    start();
    await screen.findByText("Not a length. Type 40 mm.");
    expect(screen.getByRole("alert").textContent).toContain("It is too far.");
    fireEvent.change(screen.getByLabelText("Places"), { target: { value: "0, 20, 40" } });
    server.on("PUT /rounds/r1/setup", () => aCheck(begun()));
    start();
    await waitFor(() => expect(done).toHaveBeenCalledTimes(1));
  });

  it("ticks several of the kit, only what goes into the place that is named, in their own order", async () => {
    const labels = { a: "Collet A", b: "Collet B", h: "Chuck" };
    const only = { collet: ["a", "b"], holder: ["h"] };
    const schema = {
      properties: {
        kind: { const: "x" },
        swapped: {
          title: "What is changed",
          default: "collet",
          "x-form": { field: "choice", labels: { collet: "collet", holder: "holder" } },
        },
        compared: {
          title: "For these",
          "x-form": { field: "choices", labels, sorted_by: "swapped", only },
        },
      },
    };
    const refusal = { field: "setup.compared", message: "Name one.", expected: "" };
    server.on("PUT /rounds/r1/setup", (s: Sent) =>
      (s.body.setup as { compared: string[] }).compared.length
        ? aCheck(begun())
        : new Refusal(422, [refusal]),
    );
    const { done } = await show(begun({ suggested: null }), { setup_schema: schema });
    const boxes = () => screen.getAllByRole("checkbox", { name: /Collet|Chuck/ });
    expect(boxes().map((b) => b.closest("label")?.textContent)).toEqual(["Collet A", "Collet B"]);
    start();
    await screen.findByText("Name one.");
    fireEvent.click(screen.getByRole("checkbox", { name: "Collet B" }));
    expect(screen.queryByText("Name one.")).toBeNull();
    fireEvent.click(screen.getByRole("checkbox", { name: "Collet A" }));
    start();
    await waitFor(() => expect(done).toHaveBeenCalledTimes(1));
    expect(sent().at(-1)).toMatchObject({ setup: { compared: ["a", "b"] } });
  });

  it("says what is missing where no instrument suits, and leads to the kit", async () => {
    server.on("GET /workshops/w1/kit", kit([blades]));
    const way = {
      title: "Way",
      "x-form": { field: "choice", labels: { swing: "Swing", gap: "Gap under a rod" } },
    };
    const asked = aCheck(begun()).setup_schema as { properties: object };
    await show(begun(), { setup_schema: { properties: { ...asked.properties, way } } });
    expect(screen.getByText(/no instrument for this way of reading/)).toBeTruthy();
    expect(screen.getByText(/It takes one of these: plunger_dial; lever_dial/)).toBeTruthy();
    // what lies in the kit can stand in
    expect(screen.getByText(/it can be read otherwise: Gap under a rod\./)).toBeTruthy();
    expect(screen.getByRole("link", { name: "Another, under Kit" }).getAttribute("href")).toBe(
      "/w/w1/kit",
    );
    start();
    expect(sent()).toHaveLength(0);
  });

  it("begins without one where none is needed", async () => {
    server.on("GET /workshops/w1/kit", kit([]));
    await show(begun(), {}, { ...tram, needs_instrument: false, takes: { "": ["rule"] } });
    start();
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]).toMatchObject({ instrument_id: null });
  });

  it("warns before the first reading when nothing in the kit can decide", async () => {
    server.on("POST /rounds/r1/instruments", {
      choices: [choice("dial", 0.9)],
      none: words("Nothing in the kit can decide this yet."),
    });
    await show();
    await screen.findByText("Nothing in the kit can decide this yet.");
  });

  it("says while it is filled in what does not go with the machine, and lets it be so", async () => {
    server.on("POST /rounds/r1/instruments", (s: Sent) => ({
      choices: [choice("fine", 0.1)],
      none: null,
      doubts: at115(s) ? [] : [words("That goes beyond the table: up to 80 mm fits.")],
    }));
    await show();
    await screen.findByText(/The finest you have for this\.|Reads/);
    expect(screen.queryByText(/beyond the table/)).toBeNull();
    fireEvent.change(screen.getByLabelText("Radius"), { target: { value: "300 mm" } });
    const doubt = await screen.findByText("That goes beyond the table: up to 80 mm fits.");
    // which stays under the finger that is on its way to it
    const button = screen.getByRole("button", { name: "Start reading" });
    expect(button.compareDocumentPosition(doubt)).toBe(Node.DOCUMENT_POSITION_FOLLOWING);
    start();
    await waitFor(() => expect(sent()).toHaveLength(1));
  });

  it("asks for other instruments when the set-up changes", async () => {
    await show();
    await waitFor(() => expect(server.to("/instruments").length).toBeGreaterThan(0));
    fireEvent.change(screen.getByLabelText("Radius"), { target: { value: "80 mm" } });
    await waitFor(() =>
      expect(server.to("/instruments").at(-1)?.body).toMatchObject({
        setup: { radius_mm: "80 mm" },
      }),
    );
  });

  it("lets the instrument stand whatever is typed, and says when another is finer", async () => {
    server.on("POST /rounds/r1/instruments", (s: Sent) => ({
      choices: at115(s)
        ? [choice("dial", 0.2), choice("fine", 0.21)]
        : [choice("fine", 0.1), choice("dial", 0.4)],
      none: null,
    }));
    await show();
    await screen.findByText(/The finest you have for this\./);
    const field = () => screen.getByRole("combobox", { name: "Instrument" }).textContent;
    expect(field()).toContain("Plunger");
    fireEvent.change(screen.getByLabelText("Radius"), { target: { value: "60 mm" } });
    const take = await screen.findByRole("button", { name: "Take Lever" });
    expect(field()).toContain("Plunger");
    expect((screen.getByLabelText("Radius") as HTMLInputElement).value).toBe("60 mm");
    fireEvent.click(take);
    expect(field()).toContain("Lever");
    expect(screen.queryByRole("button", { name: "Take Lever" })).toBeNull();
    // and stays, once it was taken, where the other would do as well
    fireEvent.change(screen.getByLabelText("Radius"), { target: { value: "115 mm" } });
    await waitFor(() => expect(server.to("POST /rounds/r1/instruments").length).toBeGreaterThan(2));
    expect(field()).toContain("Lever");
    start();
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]).toMatchObject({ instrument_id: "fine" });
  });

  it("puts no instrument there before it is known which is the finest", async () => {
    server.on("POST /rounds/r1/instruments", (s: Sent) =>
      at115(s)
        ? new Refusal(422, [{ field: "radius_mm", message: "Say it.", expected: "" }])
        : { choices: [choice("fine", 0.1), choice("dial", 0.4)], none: null },
    );
    await show();
    await screen.findByText(/The finest you have is put here/);
    expect(screen.getByRole("combobox", { name: "Instrument" }).textContent).not.toMatch(
      /Plunger|Lever/,
    );
    fireEvent.change(screen.getByLabelText("Radius"), { target: { value: "60 mm" } });
    await screen.findByText(/The finest you have for this\./);
    expect(screen.getByRole("combobox", { name: "Instrument" }).textContent).toContain("Lever");
  });

  it("is locked once it is settled", async () => {
    await show(begun({ settled_at: "2026-03-01T20:00:00Z" }));
    expect((screen.getByLabelText("Radius") as HTMLInputElement).disabled).toBe(true);
    expect((screen.getByRole("checkbox") as HTMLInputElement).disabled).toBe(true);
  });
});
