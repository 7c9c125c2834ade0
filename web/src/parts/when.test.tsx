import { cleanup, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { draw, Server } from "../testing/shed";
import { useClock, useDay, useWhen } from "./useWhen";

afterEach(cleanup);

function Clocks() {
  const [when, day, clock] = [useWhen(), useDay(), useClock()];
  const now = new Date("2026-03-01T02:30:00Z").getTime();
  const shown = [when("2026-03-01T02:30:00Z"), day("2026-03-01T02:30:00Z"), day("2026-03-01")];
  return <p>{[...shown, clock((now - Date.now()) / 60_000)].join("; ")}</p>;
}

it("tells times by the workshop's clock, and days without a time as they are", async () => {
  const server = new Server();
  for (const [time_zone, told] of [
    ["America/Halifax", "28 Feb 2026, 22:30; 28 Feb 2026; 1 Mar 2026; 22:30"],
    ["Europe/Berlin", "1 Mar 2026, 03:30; 1 Mar 2026; 1 Mar 2026; 03:30"],
  ] as const) {
    server.on("GET /auth/me", { signed_in: true, workshops: [{ time_zone }] });
    draw(<Clocks />);
    expect(await screen.findByText(told)).toBeTruthy();
    cleanup();
  }
});
