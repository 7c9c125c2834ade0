import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it } from "vitest";
import { draw } from "../testing/shed";
import { SchemaForm } from "./SchemaForm";
import type { Schema } from "./schema";

let looked = 0;
beforeEach(() => {
  looked = 0;
});
afterEach(cleanup);

/** Labels that count how often they are laid out: once for each time that their field is drawn. */
const labels = new Proxy<Record<string, string>>(
  { dial: "A dial", rod: "A rod" },
  {
    ownKeys: (of) => {
      looked += 1;
      return Reflect.ownKeys(of);
    },
  },
);
const length = (title: string, form: Schema = {}) => ({
  title,
  default: "",
  "x-form": { field: "length", ...form },
});
const schema: Schema = {
  properties: {
    radius: length("Radius"),
    way: { title: "Way", default: "dial", "x-form": { field: "choice", labels } },
    rod: length("Rod", { when: { way: ["rod"] } }),
    spindle: { title: "Spindle", anyOf: [{ $ref: "#/$defs/Spindle" }, { type: "null" }] },
  },
  $defs: {
    Spindle: {
      properties: {
        reach: length("Reach"),
        bore: length("Bore", { when: { reach: ["10"] } }),
      },
    },
  },
};
const type = (field: string, text: string) =>
  act(() => fireEvent.input(screen.getByLabelText(field), { target: { value: text } }));

function show(): Schema[] {
  const told: Schema[] = [];
  const given = { radius: "70", way: "dial", spindle: { reach: "5" } };
  draw(
    <SchemaForm
      schema={schema}
      values={given}
      onSubmit={() => {}}
      onChange={(all) => told.push(all)}
    />,
  );
  return told;
}

it("draws no other field anew while one is typed in", () => {
  const told = show();
  const before = looked;
  for (const text of ["7", "71", "71.5"]) type("Radius", text);
  type("Reach", "6");
  expect(told.at(-1)).toMatchObject({ radius: "71.5 mm", spindle: { reach: "6 mm" } });
  expect(looked).toBe(before);
});

it("asks for what what is chosen or typed calls for, here and within a part", () => {
  show();
  expect(screen.queryByLabelText("Rod")).toBeNull();
  expect(screen.queryByLabelText("Bore")).toBeNull();
  act(() => fireEvent.mouseDown(screen.getByLabelText("Way")));
  act(() => fireEvent.click(screen.getByRole("option", { name: "A rod" })));
  expect(screen.getByLabelText("Rod")).toBeTruthy();
  expect(looked).toBeGreaterThan(0);
  type("Reach", "10");
  expect(screen.getByLabelText("Bore")).toBeTruthy();
  type("Reach", "11");
  expect(screen.queryByLabelText("Bore")).toBeNull();
});

it("says the unit that a bare number takes, field by field", () => {
  show();
  const unit = () => screen.getByLabelText("Radius").parentElement?.textContent;
  expect(unit()).toContain("mm");
  type("Radius", "2 in");
  expect(unit()).not.toContain("mm");
});
