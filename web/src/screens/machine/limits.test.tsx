import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, expect, it } from "vitest";
import { ApiProblem } from "../../api/client";
import type { Machine } from "../../api/queries";
import { draw, OtherUnits } from "../../testing/shed";
import { asksFor, asText, Intervals, LimitFields, type Limits } from "./Limits";

beforeEach(() => localStorage.clear());
afterEach(() => localStorage.clear());
afterEach(cleanup);

const machine = {
  checks: [{ kind: "spindle_tram", title: "Tram" }],
  intervals: { spindle_tram: 90 },
  limits: {
    spindle_tram: [
      {
        key: "lean_x",
        title: "Lean to the right",
        unit: { metric: "mm/m", inch: "in/ft" },
        value: 0.1,
        words: { metric: "0.100 mm/m", inch: "0.0012 in/ft" },
      },
      {
        key: "nod",
        title: "Nod",
        unit: { metric: "mm/m", inch: "in/ft" },
        value: 0.2,
        words: { metric: "0.200 mm/m", inch: "0.0024 in/ft" },
      },
    ],
  },
} as unknown as Machine;
let sent: unknown;
let due: unknown;

function Shown({ problem = null }: { problem?: ApiProblem | null }) {
  const [limits, setLimits] = useState<Limits>({});
  const [intervals, setIntervals] = useState<Record<string, number>>({ spindle_tram: 90 });
  sent = asText(limits);
  due = intervals;
  return (
    <>
      <OtherUnits />
      <LimitFields machine={machine} limits={limits} change={setLimits} problem={problem} />
      <Intervals machine={machine} intervals={intervals} change={setIntervals} problem={problem} />
    </>
  );
}

const field = (name: string) => screen.getByLabelText(name) as HTMLInputElement;
const type = (name: string, text: string) =>
  act(() => fireEvent.change(field(name), { target: { value: text } }));
const turn = () => act(() => fireEvent.click(screen.getByRole("button", { name: "Other units" })));

it("takes a limit in the unit that stood beside it when it was typed", () => {
  draw(<Shown />);
  type("Nod", "0,05");
  expect(field("Nod").parentElement?.textContent).toContain("mm/m");
  turn();
  // another system: the other limit is told in it, and this one stays what it was
  expect(field("Lean to the right").value).toBe("0.0012 in/ft");
  expect(field("Nod").value).toBe("0,05");
  expect(field("Nod").parentElement?.textContent).toContain("mm/m");
  type("Lean to the right", "0.001");
  expect(field("Lean to the right").parentElement?.textContent).toContain("in/ft");
  expect(sent).toEqual({ spindle_tram: { nod: "0,05 mm/m", lean_x: "0.001 in/ft" } });
  type("Nod", "0.0007 in/ft");
  type("Lean to the right", " ");
  expect(sent).toEqual({ spindle_tram: { nod: "0.0007 in/ft", lean_x: "" } });
});

it("sends no days that nobody typed", () => {
  draw(<Shown />);
  for (const [text, meant] of [
    ["30", 30],
    ["0", 0],
    ["3o", -1],
    ["", -1],
    ["1.5", -1],
  ] as const) {
    type("Tram (days)", text);
    expect(due).toEqual({ spindle_tram: meant });
  }
});

const refusal = (field: string, message: string) =>
  new ApiProblem(422, "Refused", message, [{ field, message, expected: "" }]);
const isOpen = (title: string) =>
  (screen.getByText(title).closest("details") as HTMLDetailsElement).open;

it("opens where a limit is refused, and goes there", () => {
  const { again } = draw(<Shown />);
  expect([isOpen("Limits"), isOpen("Look again after")]).toEqual([false, false]);
  const refused = refusal("tolerances.spindle_tram.nod", "No limit is below nought.");
  again(<Shown problem={refused} />);
  expect([isOpen("Limits"), isOpen("Look again after")]).toEqual([true, false]);
  expect(document.activeElement).toBe(field("Nod"));
  expect(screen.getByText("No limit is below nought.")).toBeTruthy();
  again(<Shown problem={refusal("intervals.spindle_tram", "Whole days.")} />);
  expect(isOpen("Look again after")).toBe(true);
  expect(document.activeElement).toBe(field("Tram (days)"));
});

it("knows which refusals it shows, so that no other is told twice or lost", () => {
  expect(asksFor(machine, "tolerances.spindle_tram.nod")).toBe(true);
  expect(asksFor(machine, "intervals.spindle_tram")).toBe(true);
  expect(asksFor(machine, "tolerances.spindle_tram")).toBe(false);
  expect(asksFor(machine, "tolerances.spindle_tram.lean")).toBe(false);
  expect(asksFor(machine, "intervals.bed_map")).toBe(false);
});
