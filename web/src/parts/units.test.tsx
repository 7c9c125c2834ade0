import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it } from "vitest";
import { draw, OtherUnits } from "../testing/shed";
import { LengthField } from "./LengthField";
import { SchemaForm } from "./SchemaForm";
import type { Schema } from "./schema";

beforeEach(() => localStorage.clear());
afterEach(() => localStorage.clear());
afterEach(cleanup);

const length = (title: string) => ({ title, default: "", "x-form": { field: "length" } });
const schema: Schema = {
  properties: {
    radius: length("Radius"),
    bar: length("Bar"),
    passes: { title: "Passes", default: 1, "x-form": { field: "integer" } },
    way: {
      title: "Way",
      default: "mm",
      "x-form": { field: "choice", labels: { mm: "By mm", thou: "By thou" }, inch: "thou" },
    },
    shims: { title: "Shims", default: [], "x-form": { field: "lengths" } },
    head: { title: "Head", anyOf: [{ $ref: "#/$defs/Head" }, { type: "null" }] },
    clamps: {
      title: "Clamps",
      items: { $ref: "#/$defs/Clamp" },
      "x-form": { field: "rows" },
    },
  },
  $defs: {
    Head: { properties: { pivot: length("Pivot"), arm: length("Arm") } },
    Clamp: { properties: { tall: length("Tall") } },
  },
};
const shown = {
  radius: { metric: "120 mm", inch: "4.7244 in" },
  bar: { metric: "254 mm", inch: "10 in" },
  "head.pivot": { metric: "50.8 mm", inch: "2 in" },
  "clamps.0.tall": { metric: "25.4 mm", inch: "1 in" },
};

function show(): Schema[] {
  const told: Schema[] = [];
  draw(
    <>
      <OtherUnits />
      <SchemaForm
        schema={schema}
        values={{
          radius: 120,
          bar: 254,
          head: { pivot: 50.8 },
          clamps: [{ tall: 25.4 }],
        }}
        shown={shown}
        submit="Keep it"
        onSubmit={(all) => told.push(all)}
      />
    </>,
  );
  return told;
}

const field = (name: string, at = 0) => screen.getAllByLabelText(name)[at] as HTMLInputElement;
const type = (name: string, text: string, at = 0) =>
  act(() => fireEvent.input(field(name, at), { target: { value: text } }));
const press = (name: string) =>
  act(async () => {
    fireEvent.click(screen.getByRole("button", { name }));
  });

it("keeps what was typed, in the unit that it was typed in, when the units change", async () => {
  const told = show();
  type("Radius", "12,5");
  type("Passes", "3");
  type("Shims", "0.1, 0.2");
  type("Arm", "3 in");
  await press("Other units");
  expect(field("Radius").value).toBe("12,5 mm");
  expect(field("Passes").value).toBe("3");
  expect(field("Shims").value).toBe("0.1, 0.2 mm");
  // what was not touched is told in the other units
  expect(field("Bar").value).toBe("10 in");
  expect(field("Pivot").value).toBe("2 in");
  expect(field("Tall").value).toBe("1 in");
  expect(screen.getByText("By thou")).toBeTruthy();
  await press("Keep it");
  expect(told.at(-1)).toMatchObject({
    radius: "12,5 mm",
    bar: "254 mm",
    passes: "3",
    way: "thou",
    shims: "0.1, 0.2 mm",
    head: { pivot: "50.8 mm", arm: "3 in" },
    clamps: [{ tall: "25.4 mm" }],
  });
  await press("Other units");
  expect(field("Radius").value).toBe("12,5 mm");
  expect(field("Bar").value).toBe("254 mm");
});

it("keeps rows that were added and taken off when the units change", async () => {
  const told = show();
  await press("Add");
  type("Tall", "7", 1);
  await press("Other units");
  expect(field("Tall", 0).value).toBe("25.4 mm");
  expect(field("Tall", 1).value).toBe("7 mm");
  await press("Keep it");
  expect(told.at(-1)?.clamps).toEqual([{ tall: "25.4 mm" }, { tall: "7 mm" }]);
});

it("keeps a part that was taken off, or added, when the units change", async () => {
  const told = show();
  await act(async () => {
    fireEvent.click(screen.getByRole("switch", { name: /Head/ }));
  });
  await press("Other units");
  await press("Keep it");
  expect(told.at(-1)?.head).toBeNull();
});

it("says of every field which it is, where two forms ask for the same thing", () => {
  draw(
    <>
      <SchemaForm schema={schema} values={{ radius: 1 }} onSubmit={() => {}} />
      <SchemaForm schema={schema} values={{ radius: 2 }} onSubmit={() => {}} />
    </>,
  );
  expect([field("Radius", 0).value, field("Radius", 1).value]).toEqual(["1 mm", "2 mm"]);
});

it("keeps a length of its own, and says what a bare one is in", async () => {
  draw(
    <>
      <OtherUnits />
      <LengthField id="thick" name="thick" label="Thickness" />
    </>,
  );
  const beside = () => field("Thickness").parentElement?.textContent;
  type("Thickness", "0,1");
  expect(beside()).toContain("mm");
  await press("Other units");
  expect(field("Thickness").value).toBe("0,1 mm");
  expect(beside()).toBe("Thickness");
  type("Thickness", "0.004");
  expect(beside()).toContain("in");
  await press("Other units");
  expect(field("Thickness").value).toBe("0.004 in");
});
