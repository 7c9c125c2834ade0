/** Lengths that the browser itself comes by (the place of a slider, a row of a report), told as the
 * core tells its own: a true minus, and none before nothing. */
import type { Settings } from "./settings";

/** Decimals in millimetres and in inches. */
type Decimals = readonly [metric: number, inch: number];
/** Of a place on a bed, and of a coordinate of a program. */
export const PLACE: Decimals = [0, 2];
export const COORDINATE: Decimals = [2, 3];
/** Of a height, as finely as it is read. */
export const HEIGHT: Decimals = [3, 4];

type System = Settings["system"];

export function figureIn(mm: number, system: System, decimals: Decimals): string {
  const inch = system === "inch";
  return (inch ? mm / 25.4 : mm)
    .toFixed(decimals[inch ? 1 : 0])
    .replace(/^-(?=0\.?0*$)/, "")
    .replace("-", "−");
}

export function lengthIn(mm: number, system: System, decimals: Decimals = PLACE): string {
  return `${figureIn(mm, system, decimals)} ${system === "inch" ? "in" : "mm"}`;
}
