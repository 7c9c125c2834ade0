import { ThemeProvider } from "@mui/material/styles";
import { cleanup, fireEvent, render } from "@testing-library/react";
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
  for (const t of svg.querySelectorAll("text[x]")) {
    const of = (name: string) => t.closest(`[${name}]`)?.getAttribute(name);
    const [dx = 0, dy = 0] = numbers(of("transform") ?? "");
    const [x, y] = [Number(t.getAttribute("x")) + dx, Number(t.getAttribute("y")) + dy];
    const size = Number(of("font-size"));
    // as wide as letters are on the whole, figures exactly so, and with room for the tail of a g
    const each = of("font-family")?.includes("Mono") ? 0.6 : 0.5;
    const lines = [...t.querySelectorAll("tspan")];
    const longest = Math.max(
      ...(lines.length ? lines : [t]).map((l) => l.textContent?.length ?? 0),
    );
    const long = each * size * longest;
    const down = lines.reduce((sum, l) => sum + Number(l.getAttribute("dy") ?? 0), 0);
    const left = x - long * ({ end: 1, middle: 0.5 }[of("text-anchor") ?? ""] ?? 0);
    if (off(left, y - 0.7 * size) || off(left + long, y + down + 0.25 * size))
      found.push(`${t.textContent} at ${x} ${y}`);
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
    label: both(String(label)),
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
        label: both(String(i * 100)),
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

  it("tells the whole of a place at either end, and no two over each other", () => {
    const figure = curve([0.004, 0.003, 0.002, 0.004, 0.003, 0.002]);
    if (figure.type !== "curve") throw new Error();
    const points = figure.curves[0]?.points ?? [];
    points.forEach((p, i) => {
      p.label = both(`${i * 20 - 50} · even drag`);
    });
    const { svg, text } = draw(figure);
    expect(text).toContain("-50 · even drag");
    expect(text).toContain("places in mm");
    expect(svg && outside(svg)).toEqual([]);
    const told = [...(svg?.querySelectorAll("text") ?? [])].filter((t) =>
      t.textContent?.includes("drag"),
    );
    const ends = told.map((t) => {
      const half = (t.textContent?.length ?? 0) * 0.25 * 12.5;
      return [Number(t.getAttribute("x")) - half, Number(t.getAttribute("x")) + half];
    });
    expect(ends.length).toBeGreaterThan(2);
    for (const [i, [left = 0]] of ends.slice(1).entries())
      expect(left).toBeGreaterThan(ends[i]?.[1] ?? 0);
  });

  it("names inches so that they can be read", () => {
    const figure = curve([0.004, 0.003]);
    if (figure.type !== "curve") throw new Error();
    for (const p of figure.curves[0]?.points ?? []) p.words = both("0.1 mm", "0.004 in");
    expect(draw(figure, "inch").text).toContain("up, in inches");
    cleanup();
    expect(draw(figure).text).toContain("up, in mm");
  });

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
    label: both(label),
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

  it("leaves room for the longest figure and for its limit, in both systems", () => {
    const said = both("−0.18 mm/m", "−0.0021 in/ft");
    const shares = [0.18, -0.02, 0.2].map((mm) => ({
      ...bar("what the column leans", 0, mm, "whole"),
      words: said,
    }));
    const limit = both("0.20 mm/m for this spindle", "0.0024 in/ft for this spindle");
    const figure: FigureData = {
      type: "waterfall",
      title: both("What the lean is made of"),
      limit_mm: 0.2,
      limit_words: limit,
      bars: shares,
    };
    for (const system of ["metric", "inch"] as const) {
      const { svg } = draw(figure, system);
      expect(svg?.textContent).toContain(said[system]);
      expect(svg && outside(svg)).toEqual([]);
      cleanup();
    }
  });
});

describe("a plan", () => {
  const spot = (label: string, x_mm: number, y_mm: number, sort: "up" | "stay" = "up") => ({
    label: both(label),
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

describe("a chain", () => {
  const link = (name: string, x_mm: number, y_mm: number) => ({
    name,
    x_mm,
    y_mm,
    words: both(`${2 * Math.hypot(x_mm, y_mm)} mm`),
  });
  const figure: FigureData = {
    type: "chain",
    title: both("Who adds what"),
    links: [link("The spindle", 0.002, 0), link("The chuck", 0, 0.004), link("A collet", 0.008, 0)],
    whole: both("0.02 mm"),
    turned: {
      name: "A collet 180° on",
      after: 2,
      x_mm: -0.006,
      y_mm: 0.004,
      words: both("0.01 mm"),
    },
    limit_mm: 0.01,
    limit_words: both("limit 0.02 mm TIR"),
    scale_mm: 0.005,
    scale_words: both("0.005 mm"),
  };

  it("goes end to end, to one scale, the first mark up", () => {
    const { container } = draw(figure);
    const parts = [...container.querySelectorAll("g > path")].map((p) =>
      numbers(p.getAttribute("d") ?? ""),
    );
    expect(parts).toHaveLength(3);
    const [spindle = [], chuck = [], collet = []] = parts;
    // toward the first mark is up, a quarter of a turn on is to the right
    expect(spindle[3]).toBeLessThan(spindle[1] ?? 0);
    expect(chuck[2]).toBeGreaterThan(chuck[0] ?? 0);
    // each begins where the one before it ends, and all are to one scale
    expect(chuck.slice(0, 2)).toEqual(spindle.slice(2));
    expect(collet.slice(0, 2)).toEqual(chuck.slice(2));
    const size = (p: number[]) => Math.hypot((p[2] ?? 0) - (p[0] ?? 0), (p[3] ?? 0) - (p[1] ?? 0));
    expect(size(collet) / size(spindle)).toBeCloseTo(4, 2);
    // what is turned is turned about the joint below it, and is as long as it was
    const best = [...container.querySelectorAll("svg > path[stroke-dasharray]")].map((p) =>
      numbers(p.getAttribute("d") ?? ""),
    );
    expect(best[0]?.slice(0, 2)).toEqual(collet.slice(0, 2));
    expect(size(best[0] ?? [])).toBeCloseTo(size(collet), 2);
  });

  it("says in words what it draws", () => {
    const { container, text } = draw(figure, "inch");
    const told = container.querySelector("svg")?.getAttribute("aria-label");
    expect(told).toContain("The chuck adds 0.008 mm inch TIR");
    expect(told).toContain("A collet 180° on: 0.01 mm inch");
    expect(text).toContain("limit 0.02 mm TIR inch");
    const { container: bare } = draw({ ...figure, turned: null });
    expect(bare.querySelectorAll("svg[viewBox] > path[stroke-dasharray]")).toHaveLength(0);
  });
});

describe("a ranked strip", () => {
  const row = (name: string, at: number, sort: "good" | "doubt" | "bad" | "retired") => ({
    name,
    value_mm: at,
    low_mm: at - 0.004,
    high_mm: at + 0.004,
    words: both(`${at} mm`),
    good_for: both("cutters from 3 mm"),
    sort,
  });
  const figure: FigureData = {
    type: "ranked",
    title: both("ER 11"),
    rows: [row("ground", 0.008, "good"), row("boxed", 0.03, "bad"), row("old", 0.05, "retired")],
    limit_mm: 0.02,
    limit_words: both("0.02 mm"),
  };

  it("sets all pieces on one scale from nothing, with the limit across them", () => {
    const { container, text } = draw(figure);
    const strips = [...container.querySelectorAll("li svg")];
    const bands = strips.map((s) =>
      [...s.querySelectorAll("rect")].map((r) => Number(r.getAttribute("x") ?? 0)),
    );
    const limits = bands.map((b) => b[3]);
    expect(new Set(limits).size).toBe(1);
    const [good = [], bad = []] = bands;
    // from 0.004 and 0.026 on the same scale
    expect((bad[1] ?? 0) / (good[1] ?? 1)).toBeCloseTo(6.5, 1);
    expect(good[2]).toBeLessThan(limits[0] ?? 0);
    expect(strips.map((s) => s.getAttribute("aria-label")?.split(", ").pop())).toEqual([
      "within the limit",
      "beyond it",
      "retired",
    ]);
    expect(text).toContain("old, retired");
  });
});

describe("an axis", () => {
  const point = (at_mm: number, off_mm: number, read: boolean) => ({
    label: at_mm ? both(`${at_mm} mm`, `${at_mm} inch`) : both("face", "face"),
    at_mm,
    off_mm,
    low_mm: off_mm - 0.001,
    high_mm: off_mm + 0.001,
    words: both(`${2 * off_mm} mm`),
    read,
  });

  it("leans from the face outward inside its band, what was read marked", () => {
    const { svg, text } = draw({
      type: "axis",
      title: both("The axis"),
      points: [point(0, 0.001, false), point(10, 0.002, true), point(60, 0.007, true)],
      factor: 500,
    });
    const line = numbers(svg?.querySelector("path[stroke-width]")?.getAttribute("d") ?? "");
    const [x0 = 0, y0 = 0, x1 = 0, y1 = 0, x2 = 0, y2 = 0] = line;
    expect((x1 - x0) / (x2 - x0)).toBeCloseTo(10 / 60, 2);
    expect((y0 - y1) / (y0 - y2)).toBeCloseTo(1 / 6, 2);
    expect(svg?.querySelectorAll("circle")).toHaveLength(2);
    const band = numbers(svg?.querySelector("polygon")?.getAttribute("points") ?? "");
    expect(band).toHaveLength(12);
    expect(outside(svg as SVGSVGElement)).toEqual([]);
    expect(text).toContain("×500");
    expect(text).toContain("face: 0.002 mm TIR (by the line)");
  });

  it("tells places in the reader's units, and none over another", () => {
    const { svg, text } = draw(
      {
        type: "axis",
        title: both("The axis"),
        points: [0, 4, 60].map((at) => point(at, at / 1e4, true)),
        factor: 500,
      },
      "inch",
    );
    const told = [...(svg?.querySelectorAll("text") ?? [])].map((t) => t.textContent);
    expect(told).toEqual(["face", "60 inch"]);
    expect(text).toContain("4 inch:");
    expect(text + svg?.getAttribute("aria-label")).not.toMatch(/\d mm:/);
  });
});

describe("a map of a bed", () => {
  const figure: FigureData = {
    type: "contour",
    title: both("Height"),
    x_mm: [-50, 0, 50],
    y_mm: [-20, 20],
    up_mm: [
      [0, 0.01, 0.02],
      [0.03, 0.04, null],
    ],
    step_mm: 0.01,
    step_words: both("0.010 mm"),
    most_words: both("0.04 mm"),
    limit_mm: 0.02,
    points: [{ label: both("0, 20 mm"), x_mm: 0, y_mm: 20, words: both("0.040 mm") }],
  };

  it("has the front below, darker where it is higher, nothing where nothing was read", () => {
    const { container } = draw(figure);
    const cells = [...container.querySelectorAll("rect")];
    expect(cells).toHaveLength(5);
    const y = (i: number) => Number(cells[i]?.getAttribute("y"));
    expect(y(0)).toBeGreaterThan(y(3));
    const depth = (i: number) =>
      Number(cells[i]?.getAttribute("fill")?.match(/[\d.]+(?=\)$)/)?.[0]);
    expect(depth(0)).toBeLessThan(depth(1));
    expect(depth(1)).toBeLessThan(depth(3));
    const [point] = [...container.querySelectorAll("circle")];
    expect(Number(point?.getAttribute("cx"))).toBeCloseTo(240, 0);
    expect(point?.textContent).toBe("0, 20 mm: 0.040 mm");
  });

  it("is cut where the slider says", () => {
    const { container } = draw(figure, "inch");
    const section = () =>
      numbers(
        container.querySelector("svg:last-of-type path[stroke-width='2']")?.getAttribute("d") ?? "",
      );
    expect(section()).toHaveLength(4);
    const slider = container.querySelector("input[type=range]") as HTMLInputElement;
    fireEvent.change(slider, { target: { value: 0 } });
    expect(section()).toHaveLength(6);
    // higher to the right along the front row
    expect(section()[5]).toBeLessThan(section()[1] ?? 0);
    expect(container.querySelector("svg")?.getAttribute("aria-label")).toContain("0.04 mm inch");
  });
});

describe("ridges in section", () => {
  const figure: FigureData = {
    type: "ridges",
    title: both("Ridges"),
    strips: [
      {
        name: "Fed left–right",
        low_end: "front",
        high_end: "rear",
        at_mm: [-40, -1, 1, 40],
        up_mm: [0, 0.02, 0, 0.02],
        words: both("0.020 mm high, step 0.020 mm"),
      },
    ],
    factor: 200,
  };

  it("are magnified as told, the high edge where it is, and stay on the strip", () => {
    const { svg, text, container } = draw(figure);
    const at = numbers(svg?.querySelector("polyline")?.getAttribute("points") ?? "");
    const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = at;
    expect((y0 - y1) / (x1 - x0)).toBeCloseTo((0.02 * 200) / 39, 2);
    expect(outside(svg as SVGSVGElement)).toEqual([]);
    expect(text).toContain("×200");
    expect(container.querySelector("svg")?.getAttribute("aria-label")).toContain(
      "from front to rear",
    );
  });
});

describe("what was foretold beside what came out", () => {
  const row = {
    name: "Skew",
    foretold: [-0.1, 0.1],
    found: [0.5, 1],
    foretold_words: both("0.00 ± 0.05 mm/m"),
    found_words: both("+0.4 ± 0.1 mm/m"),
    by: "Square gantry",
    agrees: false,
  };
  const figure: FigureData = {
    type: "beside",
    title: both("Foretold"),
    rows: [row, { ...row, name: "Step", foretold: [0, 0.2], found: [0, 1], agrees: true }],
  };

  it("has both on one scale, and says in words whether they agree", () => {
    const { container, text } = draw(figure, "inch");
    const bars = [...container.querySelectorAll("rect")].map((r) => [
      Number(r.getAttribute("x")),
      Number(r.getAttribute("width")),
    ]);
    // nothing is in the middle where a row has two sides, at the left where it is a size
    expect(bars[0]).toEqual([45, 10]);
    expect(bars[1]).toEqual([75, 25]);
    expect(bars[2]).toEqual([0, 20]);
    const labels = [...container.querySelectorAll("svg")].map((s) => s.getAttribute("aria-label"));
    expect(labels[0]).toContain("not as foretold");
    expect(labels[1]).toMatch(/, as foretold$/);
    expect(text).toContain("+0.4 ± 0.1 mm/m inch");
    for (const [x = 0, wide = 0] of bars) expect(x + wide).toBeLessThanOrEqual(100.01);
  });
});
