// @vitest-environment node
import { describe, expect, it } from "vitest";
import { exactly, fieldsOf, initialValues, payload, whole, withUnit } from "./schema";

const schema = {
  properties: {
    kind: { const: "x" },
    way: { title: "Way", default: "a", "x-form": { field: "choice", labels: { a: "A", b: "B" } } },
    radius_mm: { title: "Radius", "x-form": { field: "length" } },
    passes: { title: "Passes", default: 2, "x-form": { field: "integer" } },
    head: { title: "Head", anyOf: [{ $ref: "#/$defs/Head" }, { type: "null" }], default: null },
  },
  $defs: {
    Head: {
      properties: { pivot_mm: { title: "Pivot", default: 0, "x-form": { field: "length" } } },
    },
  },
};

describe("a form from a schema", () => {
  it("asks every field but constants, parts as parts", () => {
    expect(fieldsOf(schema).map((f) => [f.name, f.kind])).toEqual([
      ["way", "choice"],
      ["radius_mm", "length"],
      ["passes", "integer"],
      ["head", "part"],
    ]);
  });

  it("starts with what is known in the reader's system, and schema defaults with their own unit", () => {
    const shown = { radius_mm: { metric: "70 mm", inch: "2.7559 in" } };
    const start = initialValues(schema, { radius_mm: 70 }, shown, "inch");
    expect(start).toMatchObject({ way: "a", radius_mm: "2.7559 in", passes: "2", has_head: false });
    expect(start.head).toEqual({ pivot_mm: "0 mm" });
  });

  it("sends what nobody touched as it stands in the record, however it is rounded for the eye", () => {
    const shown = {
      radius_mm: { metric: "62 mm", inch: "2.4409 in" },
      "head.pivot_mm": { metric: "90 mm", inch: "3.5433 in" },
    };
    const known = { radius_mm: 62, head: { pivot_mm: 90 } };
    const start = initialValues(schema, known, shown, "inch");
    expect(start).toMatchObject({ radius_mm: "2.4409 in", head: { pivot_mm: "3.5433 in" } });
    const kept = exactly(shown);
    expect(payload(schema, start, "inch", kept)).toMatchObject({
      radius_mm: "62 mm",
      head: { pivot_mm: "90 mm" },
    });
    const touched = { ...start, radius_mm: "2.441" };
    expect(payload(schema, touched, "inch", kept)).toMatchObject({
      radius_mm: "2.441 in",
      head: { pivot_mm: "90 mm" },
    });
  });

  it("never sends a bare length, an empty field or a part that is not there", () => {
    const typed = {
      way: "b",
      radius_mm: "7",
      passes: " 3 ",
      has_head: false,
      head: { pivot_mm: "1" },
    };
    expect(payload(schema, typed, "inch")).toEqual({
      way: "b",
      radius_mm: "7 in",
      passes: "3",
      head: null,
    });
    expect(payload(schema, { ...typed, radius_mm: " ", has_head: true }, "metric")).toEqual({
      way: "b",
      passes: "3",
      head: { pivot_mm: "1 mm" },
    });
  });

  it("leaves a unit that was typed alone", () => {
    expect(withUnit("7 in", "metric")).toBe("7 in");
    expect(withUnit('1/2"', "metric")).toBe('1/2"');
    expect(withUnit("-12, 0, 12", "metric")).toBe("-12, 0, 12 mm");
  });

  it("holds a switch off that is not asked for, and begins as people in inches mostly do", () => {
    const asked = {
      properties: {
        slide: { "x-form": { field: "choice", labels: { x: "X", y: "Y" } } },
        read_nut: { default: false, "x-form": { field: "switch", when: { slide: ["x"] } } },
        unit: {
          default: "mm",
          "x-form": { field: "choice", labels: { mm: "mm", thou: "thou" }, inch: "thou" },
        },
      },
    };
    expect(payload(asked, { slide: "x", read_nut: true, unit: "mm" }, "metric").read_nut).toBe(
      true,
    );
    expect(payload(asked, { slide: "y", read_nut: true, unit: "mm" }, "metric").read_nut).toBe(
      false,
    );
    expect(initialValues(asked, {}, {}, "inch").unit).toBe("thou");
    expect(initialValues(asked, { unit: "mm" }, {}, "inch").unit).toBe("mm");
    expect(initialValues(asked, {}, {}, "metric").unit).toBe("mm");
  });

  it("takes whole numbers, and names what is none to the server", () => {
    expect(["3", " 12 ", "0", "3o", "1.5", "-2", ""].map(whole)).toEqual([
      3, 12, 0, -1, -1, -1, -1,
    ]);
  });
});
