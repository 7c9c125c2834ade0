import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import {
  atTheMachine,
  field,
  kept,
  living,
  read,
  sentReadings,
  server,
  show,
  soon,
  type,
  understoodSlowly,
} from "../../testing/reading";
import { aRound, preview, Refusal, reading, SILENCE, station, words } from "../../testing/shed";

atTheMachine();

describe("going back, and mending", () => {
  describe("while the one before is still being understood", () => {
    let answer: (told: unknown) => void;

    beforeEach(() => {
      answer = understoodSlowly("+3");
    });

    it("goes back to the one that is being understood, and sends it only as it is mended", async () => {
      living();
      type("-1");
      await waitFor(() => expect(sentReadings()).toHaveLength(1));
      type("+3");
      await soon();
      fireEvent.keyDown(field(), { key: "Enter", shiftKey: true });
      expect(field().value).toBe("+3");
      expect(screen.getByText("Go to 3.")).toBeTruthy();
      answer(preview("+3"));
      await soon();
      expect(sentReadings()).toHaveLength(1);
      expect(field().value).toBe("+3");
      type("+4");
      await waitFor(() => expect(sentReadings()).toHaveLength(2));
      expect(sentReadings()[1]).toMatchObject({ station: "3", text: "+4", supersedes: null });
    });

    it("keeps the zero before, when the one it was set on is gone back to", async () => {
      const drawn = show(aRound({ readings: [reading("a", "12", "+1")], next_station: "3" }));
      fireEvent.click(screen.getByRole("button", { name: "Zero at at 12" }));
      type("+3");
      await soon();
      fireEvent.click(screen.getByRole("button", { name: "Zero at at 3" }));
      expect(drawn.container.textContent).toContain("The dial was set to zero at at 3.");
      fireEvent.click(screen.getByRole("button", { name: "Back one" }));
      expect(drawn.container.textContent).toContain("The dial was set to zero at at 12.");
      answer(preview("+3"));
      type("+4");
      await waitFor(() => expect(sentReadings()).toHaveLength(1));
      expect(sentReadings()[0]).toMatchObject({ station: "3", text: "+4", zeroed_on: "a" });
    });
  });

  it("does not take the reading behind for the one that is to be mended", async () => {
    const answer = understoodSlowly("rubbish");
    living();
    type("rubbish");
    type("+8");
    await soon();
    answer(new Refusal(422, [{ field: "text", message: "Not a length.", expected: "" }]));
    await waitFor(() => expect(field().value).toBe("rubbish"));
    fireEvent.click(screen.getByRole("button", { name: "Back one" }));
    expect(field().value).toBe("rubbish");
    type("+2");
    await waitFor(() => expect(sentReadings()).toHaveLength(2));
    expect(sentReadings().map((b) => [b.station, b.text])).toEqual([
      ["12", "+2"],
      ["3", "+8"],
    ]);
  });

  it("mends a reading that the dial was set to zero on, and those after it still stand on it", async () => {
    const answer = understoodSlowly("rubbish");
    living();
    type("rubbish");
    fireEvent.click(screen.getByRole("button", { name: "Zero at at 12" }));
    type("+8");
    await soon();
    answer(new Refusal(422, [{ field: "text", message: "Not a length.", expected: "" }]));
    await waitFor(() => expect(field().value).toBe("rubbish"));
    type("+2");
    await waitFor(() => expect(sentReadings()).toHaveLength(2));
    const [mended, later] = server.to("PUT /rounds/r1/readings/");
    expect(mended?.body).toMatchObject({ station: "12", text: "+2", zeroed_on: null });
    expect(later?.body).toMatchObject({ station: "3", text: "+8" });
    expect(mended?.path).toContain(String(later?.body.zeroed_on));
  });

  it("goes back to the last that was typed, though it has not reached the record yet", async () => {
    server.on("PUT /rounds/r1/readings/", SILENCE);
    show(aRound({ readings: [reading("a", "12", "+1")], next_station: "3" }));
    type("+4");
    await screen.findByText("1 kept here, not sent yet.");
    await server.quiet();
    fireEvent.keyDown(field(), { key: "Enter", shiftKey: true });
    expect(screen.getByText("Correct at 3: it says +4 div.")).toBeTruthy();
    expect(field().value).toBe("+4");
    type("+5");
    await screen.findByText("2 kept here, not sent yet.");
    await server.quiet();
    // what replaces it stands in its place, and is what is gone back to next
    expect(screen.getByText("Go to 6.")).toBeTruthy();
    expect(screen.getByRole("button", { name: /^at 3\s*read\s*\+5$/ })).toBeTruthy();
    fireEvent.keyDown(field(), { key: "Enter", shiftKey: true });
    expect(screen.getByText("Correct at 3: it says +5 div.")).toBeTruthy();
    server.on("PUT /rounds/r1/readings/", kept);
    window.dispatchEvent(new Event("online"));
    await waitFor(() => expect(screen.queryByText(/kept here/)).toBeNull());
    const [first, second] = server.to("PUT /rounds/r1/readings/").slice(-2);
    expect(first?.body).toMatchObject({ station: "3", text: "+4", supersedes: null });
    expect(first?.path).toContain(String(second?.body.supersedes));
    expect(second?.body).toMatchObject({ station: "3", text: "+5" });
  });

  it("goes back one more each time, as far as the first", () => {
    const readings = [reading("a", "12", "+1"), reading("b", "3", "+4"), reading("c", "6", "-2")];
    show(aRound({ readings, next_station: "9" }));
    const back = () => fireEvent.keyDown(field(), { key: "Enter", shiftKey: true });
    for (const said of ["6: it says -2", "3: it says +4", "12: it says +1", "12: it says +1"]) {
      back();
      expect(screen.getByText(`Correct at ${said} div.`)).toBeTruthy();
    }
    fireEvent.click(screen.getByRole("button", { name: "Leave it" }));
    back();
    expect(screen.getByText("Correct at 6: it says -2 div.")).toBeTruthy();
    expect(server.sent).toHaveLength(0);
  });

  it("goes back from a doubt without answering it, and loses nothing of it", async () => {
    const question = {
      about: "turns" as const,
      text: words("Which turn of the needle?"),
      choices: [-0.4],
      choice_words: [words("−0.4 mm")],
    };
    server.on("POST /rounds/r1/preview", (s: { body: { text: string } }) =>
      s.body.text === "60" ? preview("60", { question }) : preview(s.body.text),
    );
    show(aRound({ readings: [reading("a", "12", "+1")], next_station: "3" }));
    type("60");
    await screen.findByText("Which turn of the needle?");
    await read();
    fireEvent.click(screen.getByRole("button", { name: "Back one" }));
    expect(field().value).toBe("+1");
    await screen.findByText(/is not kept yet/);
    type("+2");
    await soon();
    expect(sentReadings()).toHaveLength(0);
    fireEvent.click(screen.getByRole("button", { name: /^Keep/ }));
    await waitFor(() => expect(sentReadings()).toHaveLength(2));
    expect(sentReadings()[0]).toMatchObject({ station: "3", text: "60", accepted: true });
    const correction = { station: "12", text: "+2", accepted: false, supersedes: "a" };
    expect(sentReadings()[1]).toMatchObject(correction);
  });

  it("asks anew of a doubtful reading that is moved to another station", async () => {
    const question = { about: "turns" as const, text: words("Which turn?") };
    server.on("POST /rounds/r1/preview", (s: { body: { text: string; station: string } }) => {
      const doubtful = s.body.text === "60" && s.body.station === "12";
      return doubtful
        ? preview("60", { question: { ...question, choices: [], choice_words: [] } })
        : preview(s.body.text);
    });
    show();
    type("60");
    await screen.findByText("Which turn?");
    await read();
    fireEvent.click(screen.getByRole("button", { name: /^at 6/ }));
    expect(screen.queryByText("Which turn?")).toBeNull();
    expect(field().value).toBe("60");
    fireEvent.keyDown(field(), { key: "Enter" });
    await waitFor(() => expect(sentReadings()).toHaveLength(1));
    expect(sentReadings()[0]).toMatchObject({ station: "6", text: "60", accepted: false });
  });

  it("takes back an answer that has not reached the record yet", async () => {
    server.on("PUT /rounds/r1/readings/", SILENCE);
    const grades = [{ key: "none", label: "nothing", tone: "good" as const }];
    const felt = station("step", { reads: "grade", grades });
    show(aRound({ stations: [felt, station("3")], next_station: "step" }));
    fireEvent.click(screen.getByRole("button", { name: "nothing" }));
    await screen.findByText("1 kept here, not sent yet.");
    fireEvent.click(screen.getByRole("button", { name: "Back one" }));
    expect(screen.getByText("Correct at step: it says nothing.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "It should not count" }));
    await screen.findByText("2 kept here, not sent yet.");
    expect(screen.getByText("Go to step.")).toBeTruthy();
    expect((screen.getByRole("button", { name: "Back one" }) as HTMLButtonElement).disabled).toBe(
      true,
    );
  });
});
