import { cleanup, screen, within } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { draw, tram, words } from "../testing/shed";
import { GuideText } from "./GuideText";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

const guide = {
  ...tram.guide,
  steps: [words("Swing it round.", "Swing it round.")],
  by_way: { trigger: [words("Lower it by 2 mm.", "Lower it by 0.079 in.")] },
};
const ways = { swing: "A dial swung", trigger: "Touched off" };

it("tells a guide with every way's own steps, each under what that way is called", () => {
  localStorage.setItem("calm-square.settings", JSON.stringify({ system: "inch" }));
  draw(<GuideText guide={guide} cautions={["Cutter out."]} ways={ways} />);
  expect(screen.getByText("Swing it round.").closest("details")).toBeNull();
  const other = screen.getByText("Steps, if it is read so: touched off").closest("details");
  expect(within(other as HTMLElement).getByText("Lower it by 0.079 in.")).toBeTruthy();
});

it("tells only the steps of the way that was chosen", () => {
  draw(<GuideText guide={guide} cautions={[]} way="trigger" ways={ways} />);
  expect(screen.getByText("Lower it by 2 mm.")).toBeTruthy();
  expect(screen.queryByText("Swing it round.")).toBeNull();
  expect(screen.queryByText(/read so/)).toBeNull();
});
