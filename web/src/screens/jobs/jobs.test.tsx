import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { GoodFor } from "../../parts/GoodFor";
import { draw, Refusal, Server, words } from "../../testing/shed";
import { Bar } from "./Bar";
import { LimitsPane } from "./LimitsPane";
import type { Job } from "./queries";

let server: Server;
beforeEach(() => {
  server = new Server();
});
afterEach(cleanup);

const share = (more: Partial<Schemas["ToldShare"]>): Schemas["ToldShare"] => ({
  text: words("it leans by 0.02 mm"),
  of_tolerance: 0.4,
  leaves: 0.1,
  state: "measured",
  kind: "spindle_tram",
  kind_title: "Tram",
  at: null,
  weak: false,
  ...more,
});

const demand = (shares: Schemas["ToldShare"][]): Schemas["ToldDemand"] => ({
  key: "flat",
  title: "flat",
  answer: "unknown",
  tolerance: words("0.05 mm"),
  most: words("0.03 mm"),
  likely: words("0.02 mm"),
  of_tolerance: shares.reduce((sum, s) => sum + s.of_tolerance, 0),
  likely_of_tolerance: 0.4,
  shares,
});

describe("a bar", () => {
  it("tells its sum, the line it is held against, and what is not known", () => {
    const unknown = share({
      text: words("the scale is off by 0.01 mm"),
      of_tolerance: 0.2,
      leaves: 0.2,
      state: "not_measured",
      kind_title: "Test cut",
    });
    draw(<Bar feature="plate" demand={demand([share({}), unknown])} />);
    expect(screen.getByText("Not known")).toBeTruthy();
    const drawn = screen.getByRole("img", { name: "plate, flat: up to 0.03 mm of 0.05 mm" });
    const filled = [...drawn.querySelectorAll("rect[fill]")].map((r) => r.getAttribute("fill"));
    expect(filled.filter((f) => f?.startsWith("url(#"))).toHaveLength(1);
    // 1.25 times the tolerance is as wide as it is drawn: the line stands at four fifths
    expect(drawn.querySelector("line")?.getAttribute("x1")).toBe("80%");
    expect(screen.getByText(/not measured: its usual limit/)).toBeTruthy();
  });

  it("keeps the smallest of many shares folded", () => {
    const many = [0.3, 0.2, 0.1, 0.05, 0.04].map((of_tolerance, i) =>
      share({ of_tolerance, text: words(`share ${i}`) }),
    );
    draw(<Bar feature="plate" demand={demand(many)} />);
    const folded = screen.getByText("2 smaller").closest("details");
    expect(folded?.open).toBe(false);
    expect(within(folded as HTMLElement).getByText(/share 4/)).toBeTruthy();
  });
});

describe("what a machine is good for", () => {
  const here = (name: string, answer: Schemas["JobHere"]["answer"]) => ({
    id: name,
    name,
    answer,
    sentence: words(name),
  });

  it("sorts jobs by what is known of them, and leaves out what it could never make", () => {
    const jobs = [
      here("plates", "fits"),
      here("dials", "no"),
      here("brackets", "close"),
      here("rims", "unknown"),
      here("doors", "outside"),
    ];
    draw(<GoodFor machineId="m1" jobs={jobs} />);
    const said = document.body.textContent ?? "";
    expect(said).toContain("Good for: plates");
    expect(said).toContain("Not yet for: dials, brackets");
    expect(said).toContain("Not known for: rims");
    expect(said).not.toContain("doors");
    expect(screen.getByRole("link", { name: "rims" }).getAttribute("href")).toBe(
      "/jobs/rims?machine=m1",
    );
  });

  it("says nothing where there is nothing to say", () => {
    draw(<GoodFor machineId="m1" jobs={[here("doors", "outside")]} />);
    expect(screen.queryByText(/for:/)).toBeNull();
  });
});

describe("limits for a job", () => {
  const limit: Schemas["ToldLimit"] = {
    kind: "spindle_tram",
    kind_title: "Tram",
    tolerance: "nod",
    title: "the spindle’s nod",
    value: 0.05,
    words: words("0.05 mm/m"),
    usual: words("0.1 mm/m"),
    weight: 1,
    is_met: false,
    text: words("As far as plate: flat allows."),
    decided_by: ["Dial"],
    too_fine: false,
  };
  const limits = (more: Partial<Schemas["JobLimitsOut"]> = {}): Schemas["JobLimitsOut"] => ({
    limits: [limit],
    fixed: [],
    beyond: [],
    machine_id: "m1",
    on: false,
    fits: true,
    ...more,
  });
  const job = { id: "j1", name: "Plate", workshop_id: "w1", can_write: true } as Job;

  function pane() {
    draw(
      <Routes>
        <Route path="*" element={<LimitsPane job={job} machineId="m1" />} />
      </Routes>,
    );
    const details = screen.getByText("Limits that this job needs").closest("details");
    (details as HTMLDetailsElement).open = true;
    fireEvent(details as HTMLElement, new Event("toggle"));
  }

  it("are asked for only when they are looked at, and weighed by a press", async () => {
    server.on("POST /jobs/j1/limits", () => limits());
    pane();
    expect(await screen.findByText("0.05 mm/m")).toBeTruthy();
    expect(screen.getByText(/Decided by Dial/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "More room: the spindle’s nod" }));
    await waitFor(() => expect(server.to("/jobs/j1/limits")).toHaveLength(2));
    expect(server.to("/jobs/j1/limits")[1]?.body).toEqual({
      machine_id: "m1",
      weights: [{ kind: "spindle_tram", tolerance: "nod", weight: 1.5 }],
    });
  });

  it("put down what would decide one that nothing in the kit decides", async () => {
    const fine = { ...limit, decided_by: [], too_fine: true };
    const tram = { key: "spindle_tram", takes: { swing: ["plunger_dial"], gap: ["plunger_dial"] } };
    server.on("POST /jobs/j1/limits", () =>
      limits({ limits: [fine, { ...limit, tolerance: "lean" }] }),
    );
    server.on("GET /kinds", [tram]);
    server.on("POST /workshops/w1/wanted", []);
    pane();
    await waitFor(() => expect(server.to("/kinds")).toHaveLength(1));
    // for that one alone
    fireEvent.click(await screen.findByRole("button", { name: "Put it on the list to buy" }));
    expect(await screen.findByText("On the list.")).toBeTruthy();
    expect(server.to("POST /workshops/w1/wanted")[0]?.body).toMatchObject({
      what: "Something finer for “Tram”",
      why: "“Plate” leaves 0.05 mm/m for the spindle’s nod; nothing in the kit decides that little.",
      sort: "instrument",
      types: ["plunger_dial"],
      machine_id: "m1",
    });
  });

  it("say why they could not be set", async () => {
    server.on("POST /jobs/j1/limits", () => limits());
    server.on("POST /jobs/j1/limits/apply", new Refusal(409, [], "It asks for no limit."));
    pane();
    fireEvent.click(await screen.findByRole("button", { name: "Judge the machine by them" }));
    expect((await screen.findByRole("alert")).textContent).toBe("It asks for no limit.");
  });
});
