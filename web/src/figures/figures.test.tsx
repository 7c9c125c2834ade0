import { ThemeProvider } from "@mui/material/styles";
import { cleanup, render } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { SettingsProvider } from "../settings";
import { themeFor } from "../theme";
import { Figure, type FigureData } from "./Figure";

const both = (metric: string, inch = `${metric} inch`) => ({ metric, inch });

afterEach(() => {
  cleanup();
  localStorage.clear();
});

function draw(figure: FigureData, system: "metric" | "inch" = "metric") {
  localStorage.setItem("calm-square.settings", JSON.stringify({ system }));
  const { container } = render(
    <SettingsProvider>
      <ThemeProvider theme={themeFor("light")}>
        <Figure figure={figure} />
      </ThemeProvider>
    </SettingsProvider>,
  );
  const svg = container.querySelector("svg[viewBox^='0 0']") as SVGSVGElement | null;
  return { container, svg, text: container.textContent ?? "" };
}

/** Numbers of a path or of attributes, in the order in which they stand. */
const numbers = (text: string) => (text.match(/-?\d+(\.\d+)?/g) ?? []).map(Number);

/** Places outside of the sheet at which text begins, and points of lines. */
function outside(svg: SVGSVGElement): string[] {
  const [, , wide = 0, high = 0] = numbers(svg.getAttribute("viewBox") ?? "");
  const off = (x: number, y: number) => x < 0 || y < 0 || x > wide || y > high;
  const found: string[] = [];
  for (const t of svg.querySelectorAll("text")) {
    const [x, y] = [Number(t.getAttribute("x")), Number(t.getAttribute("y"))];
    if (t.getAttribute("x") && off(x, y)) found.push(`${t.textContent} at ${x} ${y}`);
  }
  for (const c of svg.querySelectorAll("circle[cx]"))
    if (off(Number(c.getAttribute("cx")), Number(c.getAttribute("cy")))) found.push("circle");
  for (const p of svg.querySelectorAll("polyline")) {
    const points = numbers(p.getAttribute("points") ?? "");
    for (let i = 0; i < points.length; i += 2)
      if (off(points[i] ?? 0, points[i + 1] ?? 0)) found.push("line");
  }
  return found;
}

const warp = (half_x: number, half_y: number, z: number, factor: number): FigureData => ({
  type: "warp",
  title: both("The base"),
  factor,
  points: [
    ["front left", -1, -1, -1],
    ["front right", 1, -1, 1],
    ["rear right", 1, 1, -1],
    ["rear left", -1, 1, 1],
  ].map(([label, x, y, up]) => ({
    label: String(label),
    x_mm: Number(x) * half_x,
    y_mm: Number(y) * half_y,
    z_mm: Number(up) * z,
    words: both(`${Number(up) * z} mm`, `${Number(up) * z} in`),
  })),
});

describe("a warped plane", () => {
  it.each([
    [430, 660, 0.043, 5000],
    [200, 40, 0.5, 100],
    [40, 900, 0.002, 5000],
    [300, 300, 0, 5000],
  ])("stays on its sheet, whatever its shape (%d × %d, %d, ×%d)", (x, y, z, factor) => {
    const { svg, text } = draw(warp(x, y, z, factor));
    expect(svg && outside(svg)).toEqual([]);
    expect(text).toContain(`errors ×${factor}`);
    for (const corner of ["front left", "front right", "rear left", "rear right"])
      expect(text).toContain(corner);
  });

  it("draws the flat one too, and what is high above it", () => {
    const { svg } = draw(warp(300, 200, 0.05, 1000));
    const [flat, bent] = [...(svg?.querySelectorAll("path") ?? [])].map((p) =>
      numbers(p.getAttribute("d") ?? ""),
    );
    // y grows downwards: front right stands high, front left low
    expect(bent?.[3]).toBeLessThan(flat?.[3] ?? 0);
    expect(bent?.[1]).toBeGreaterThan(flat?.[1] ?? 0);
  });

  it("speaks the reader's units", () => {
    expect(draw(warp(300, 200, 0.05, 100), "inch").text).toContain("0.05 in");
  });
});

const curve = (values: number[], band: number | null = 0.01): FigureData => ({
  type: "curve",
  title: both("The rail"),
  bolts: true,
  up: "up",
  band_mm: band,
  band_words: band ? both("0.020 mm") : null,
  factor: 1000,
  curves: [
    {
      name: "rail",
      reference: false,
      points: values.map((off_mm, i) => ({
        label: String(i * 100),
        at_mm: i * 100,
        off_mm,
        words: both(`${off_mm} mm`),
      })),
    },
  ],
});

describe("a curve", () => {
  it.each([[[0, 0.3, -0.2, 0.05, 0]], [[0, 0, 0, 0, 0]], [[0.02, 0.05, 0.04]], [[-5, 4, 0, 0.01]]])(
    "stays on its sheet: %j",
    (values) => {
      const { svg } = draw(curve(values));
      expect(svg && outside(svg)).toEqual([]);
    },
  );

  it("has a mark for every bolt, and labels only where there is room", () => {
    const { svg } = draw(curve(Array.from({ length: 23 }, (_, i) => Math.sin(i) / 50)));
    expect(svg?.querySelectorAll("circle")).toHaveLength(23);
    const places = [...(svg?.querySelectorAll("g > text:last-child") ?? [])].map((t) =>
      Number(t.getAttribute("x")),
    );
    const gaps = places.slice(1).map((x, i) => x - (places[i] ?? 0));
    expect(Math.min(...gaps)).toBeGreaterThan(40);
  });
});

describe("a waterfall", () => {
  const bar = (
    label: string,
    from_mm: number,
    to_mm: number,
    sort: "whole" | "gain" | "deduced",
  ) => ({
    label,
    from_mm,
    to_mm,
    words: both(`${to_mm}`),
    sort,
  });

  it("drops from bar to bar, and a deduced share is dashed", () => {
    const { svg } = draw({
      type: "waterfall",
      title: both("What is lost"),
      limit_mm: 0.02,
      limit_words: both("0.020 mm"),
      bars: [
        bar("as found", 0, 0.12, "whole"),
        bar("Close the nut", 0.12, 0.05, "gain"),
        bar("now", 0, 0.05, "whole"),
        bar("all the rest", 0.01, 0.05, "deduced"),
      ],
    });
    const bars = [...(svg?.querySelectorAll("rect") ?? [])].map((r) => ({
      left: Number(r.getAttribute("x")),
      right: Number(r.getAttribute("x")) + Number(r.getAttribute("width")),
      dashed: r.getAttribute("fill") === "none" && r.getAttribute("stroke") !== "none",
    }));
    expect(bars[1]?.right).toBeCloseTo(bars[0]?.right ?? 0);
    expect(bars[1]?.left).toBeCloseTo(bars[2]?.right ?? 0);
    expect(bars.map((b) => b.dashed)).toEqual([false, false, false, true]);
    expect(svg && outside(svg)).toEqual([]);
  });
});

describe("a plan", () => {
  const spot = (label: string, x_mm: number, y_mm: number, sort: "up" | "stay" = "up") => ({
    label,
    x_mm,
    y_mm,
    words: both("¼ turn up"),
    detail: both("0.44 mm · 90° · 1.5 flats"),
    sort,
  });
  const plan = (spots: ReturnType<typeof spot>[], width: number, depth: number): FigureData => ({
    type: "plan",
    title: both("Turns"),
    spots,
    width_mm: width,
    depth_mm: depth,
  });

  it("stands as one looks down on it: the front below, the left on the left", () => {
    const corners = [spot("front left", -400, -600), spot("rear right", 400, 600, "stay")];
    const { svg, text } = draw(plan(corners, 800, 1200));
    const [front, rear] = [...(svg?.querySelectorAll("g[transform]") ?? [])].map((g) =>
      numbers(g.getAttribute("transform") ?? ""),
    );
    expect(front?.[1]).toBeGreaterThan(rear?.[1] ?? 0);
    expect(front?.[0]).toBeLessThan(rear?.[0] ?? 0);
    expect(text).toContain("1.5 flats");
    expect(svg && outside(svg)).toEqual([]);
  });

  it("becomes a list where there are too many bolts for a drawing", () => {
    const many = Array.from({ length: 12 }, (_, i) => spot(`bolt ${i + 1}`, -400, i * 90));
    const { container } = draw(plan(many, 800, 1000));
    expect(container.querySelectorAll("li")).toHaveLength(12);
  });
});

describe("a ladder", () => {
  const rung = (value: number, result: "clean" | "stalls" | "ahead") => ({
    label: both(`${value} mm/min`),
    value,
    result,
    words: both(""),
  });

  it("is climbed from below, and says what to use between its rungs", () => {
    const { svg, text } = draw({
      type: "ladder",
      title: both("The ladder"),
      rungs: [rung(1000, "clean"), rung(2000, "clean"), rung(3000, "stalls"), rung(4000, "ahead")],
      recommended: 1500,
      recommended_words: both("1500 mm/min"),
    });
    const y = (label: string) =>
      Number(
        [...(svg?.querySelectorAll("text") ?? [])]
          .find((t) => t.textContent === label)
          ?.getAttribute("y"),
      );
    expect(y("1000 mm/min")).toBeGreaterThan(y("2000 mm/min"));
    const line = numbers(svg?.querySelector("g[transform]")?.getAttribute("transform") ?? "")[1];
    expect(line).toBeGreaterThan(y("2000 mm/min"));
    expect(line).toBeLessThan(y("1000 mm/min"));
    expect(text).toContain("use up to 1500 mm/min");
    expect(text).toContain("not run");
    expect(svg && outside(svg)).toEqual([]);
  });
});
