import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, expect, it } from "vitest";
import { draw, OtherUnits } from "../testing/shed";
import { SchemaForm } from "./SchemaForm";
import type { JsonObject, Schema } from "./schema";

beforeEach(() => localStorage.clear());
afterEach(() => localStorage.clear());
afterEach(cleanup);

const schema: Schema = {
  properties: {
    thick: { title: "Thick", default: "", "x-form": { field: "length" } },
    note: { title: "Note", default: "", "x-form": { field: "text" } },
    clamps: { title: "Clamps", items: { $ref: "#/$defs/Clamp" }, "x-form": { field: "rows" } },
  },
  $defs: {
    Clamp: {
      properties: { name: { title: "Name", default: "", "x-form": { field: "text" } } },
    },
  },
};
const AT_FIRST = { thick: 18, note: "of birch", clamps: [{ name: "left" }, { name: "right" }] };
const NAMES = ["Drawn 1", "Drawn 2"];

/** A board, which somebody else changes at a press, and on which more can be drawn. */
function Board({ later, told }: { later: JsonObject; told: JsonObject[] }) {
  const [values, setValues] = useState<JsonObject>(AT_FIRST);
  const [rows, setRows] = useState<JsonObject[]>([]);
  return (
    <>
      <OtherUnits />
      <button type="button" onClick={() => setValues(later)}>
        Meanwhile
      </button>
      <button type="button" onClick={() => setRows([...rows, { name: NAMES[rows.length] }])}>
        Draw
      </button>
      <SchemaForm
        schema={schema}
        values={values}
        follows
        more={{ at: "clamps", rows }}
        submit="Keep it"
        onSubmit={(all) => told.push(all)}
      />
    </>
  );
}

function show(later: JsonObject): JsonObject[] {
  const told: JsonObject[] = [];
  draw(<Board later={later} told={told} />);
  return told;
}

const press = (name: string, at = 0) =>
  act(async () => {
    fireEvent.click(screen.getAllByRole("button", { name })[at] as HTMLElement);
  });
const type = (name: string, text: string, at = 0) =>
  act(() =>
    fireEvent.input(screen.getAllByLabelText(name)[at] as HTMLElement, { target: { value: text } }),
  );
const names = () => screen.queryAllByLabelText("Name").map((f) => (f as HTMLInputElement).value);

it("takes over what became of its values meanwhile, and keeps what was typed", async () => {
  const told = show({ ...AT_FIRST, thick: 25, note: "of ash" });
  type("Note", "of oak");
  await press("Meanwhile");
  await press("Keep it");
  expect(told).toEqual([
    { thick: "25 mm", note: "of oak", clamps: [{ name: "left" }, { name: "right" }] },
  ]);
});

it("does not bring back a drawn row that was taken off when others change theirs", async () => {
  show({ ...AT_FIRST, clamps: [{ name: "right" }, { name: "front" }] });
  await press("Draw");
  await press("Draw");
  expect(names()).toEqual(["left", "right", "Drawn 1", "Drawn 2"]);
  await press("Remove clamps 3");
  await press("Meanwhile");
  // what was drawn stays, what was taken off here or there is gone, what came there is here
  expect(names()).toEqual(["right", "Drawn 2", "front"]);
});

it("keeps a row that was changed here and taken off there, in other units too", async () => {
  const told = show({ ...AT_FIRST, clamps: [{ name: "left" }] });
  type("Name", "right, low", 1);
  await press("Other units");
  await press("Meanwhile");
  expect(names()).toEqual(["left", "right, low"]);
  await press("Keep it");
  expect(told[0]?.clamps).toEqual([{ name: "left" }, { name: "right, low" }]);
});
