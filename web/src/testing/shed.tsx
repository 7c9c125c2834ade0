import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
/** A shed for tests: a fake server that answers by path, and a tram to be read on it. */
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import type { CheckState, RoundState, Schemas, Words } from "../api/client";
import type { Kind } from "../api/queries";
import { SettingsProvider, useSettings } from "../settings";
import { themeFor } from "../theme";
import { answerBy } from "./address";

export interface Sent {
  method: string;
  path: string;
  body: Record<string, unknown>;
  /** The units that it asks for problems in. */
  reads: string;
}

type Answer = unknown | ((sent: Sent) => unknown);

/** A problem as the server tells it. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly errors: { field: string; message: string; expected: string }[],
    readonly detail = errors[0]?.message ?? "Refused.",
  ) {}
}

/** No answer at all: the connection is lost. */
export const SILENCE = Symbol("no connection");

/** Answers each call by the first pattern that its "METHOD path" contains; keeps what was sent. */
export class Server {
  readonly sent: Sent[] = [];
  private readonly answers: [string, Answer][] = [];
  private underWay = 0;

  constructor() {
    const at = "http://shed.test";
    answerBy(async (request) => {
      this.underWay += 1;
      try {
        return await this.answer(request, at);
      } finally {
        this.underWay -= 1;
      }
    });
  }

  /** When every call has its answer, and whoever asked has had a turn to do something about it. */
  async quiet(): Promise<void> {
    for (let turns = 0; turns < 10; turns += 1) {
      if (this.underWay > 0) turns = 0;
      await new Promise((turn) => setTimeout(turn, 0));
    }
  }

  on(what: string, answer: Answer): this {
    this.answers.unshift([what, answer]);
    return this;
  }

  /** What was sent to paths with this in them. */
  to(what: string): Sent[] {
    return this.sent.filter((s) => `${s.method} ${s.path}`.includes(what));
  }

  private async answer(request: Request, at: string): Promise<Response> {
    const text = await request.text();
    const sent = {
      method: request.method,
      path: request.url.replace(`${at}/api/v1`, ""),
      body: text ? JSON.parse(text) : {},
      reads: request.headers.get("X-Reads") ?? "",
    };
    this.sent.push(sent);
    const found = this.answers.find(([what]) => `${sent.method} ${sent.path}`.includes(what));
    if (!found) throw new Error(`Nothing answers ${sent.method} ${sent.path}`);
    const answer = typeof found[1] === "function" ? await found[1](sent) : found[1];
    if (answer === SILENCE) throw new TypeError("no network");
    const refused = answer instanceof Refusal;
    const body = refused
      ? { title: "Refused", status: answer.status, detail: answer.detail, errors: answer.errors }
      : answer;
    return new Response(JSON.stringify(body), {
      status: refused ? answer.status : 200,
      headers: { "Content-Type": "application/json" },
    });
  }
}

/** Styles are left out: a page that is drawn nowhere need not work out how it would look. */
const unstyled = createCache({ key: "cs" });
unstyled.sheet.insert = () => {};

/** Draw something as the application would, with a memory of its own. */
export function draw(children: ReactNode) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const whole = (inside: ReactNode) => (
    <CacheProvider value={unstyled}>
      <QueryClientProvider client={client}>
        <SettingsProvider>
          <ThemeProvider theme={themeFor("light")}>
            <MemoryRouter>{inside}</MemoryRouter>
          </ThemeProvider>
        </SettingsProvider>
      </QueryClientProvider>
    </CacheProvider>
  );
  const drawn = render(whole(children));
  return { ...drawn, client, again: (inside: ReactNode) => drawn.rerender(whole(inside)) };
}

export const words = (metric: string, inch = `${metric} inch`): Words => ({ metric, inch });

export const station = (
  key: string,
  more: Partial<Schemas["Station"]> = {},
): Schemas["Station"] => ({
  key,
  label: words(`at ${key}`, `at ${key}`),
  prompt: words(`Go to ${key}.`, `Go to ${key}.`),
  group: words("", ""),
  x_mm: 0,
  y_mm: 0,
  tip: "",
  reads: "length",
  grades: [],
  where: "",
  takes: [],
  wants_photo: false,
  ...more,
});

export const reading = (
  id: string,
  at: string,
  text: string,
  more: Partial<Schemas["ReadingOut"]> = {},
): Schemas["ReadingOut"] => ({
  id,
  station: at,
  reads: "length",
  text,
  unit: "div",
  shown_mm: 0,
  x_mm: null,
  y_mm: null,
  grade: "",
  note: "",
  words: words(text),
  needle: null,
  question: null,
  zeroed_on: null,
  supersedes: null,
  live: true,
  read_at: "2026-03-01T19:00:00Z",
  by: "Merrin",
  ...more,
});

export const dial: Schemas["InstrumentOut"] = {
  id: "dial",
  name: "Plunger",
  type: "plunger_dial",
  type_title: "Plunger dial",
  spec: { type: "plunger_dial", graduation_mm: 0.01, unit: "div" } as Schemas["PlungerDial"],
  shown: {},
  reads: words("0.01 mm a division"),
  archived: false,
};

export const aRound = (more: Partial<RoundState> = {}): RoundState => ({
  id: "r1",
  number: 1,
  version: 1,
  part: "",
  setup: { kind: "spindle_tram", way: "swing", radius_mm: 115, passes: 1 } as RoundState["setup"],
  setup_shown: {},
  suggested: null,
  suggested_shown: {},
  instrument_id: "dial",
  instrument_name: "Plunger",
  instrument: dial.spec as RoundState["instrument"],
  dial: { units: ["div", "mm", "in"], needle: false, can_zero: true, plus_means: "" },
  stations: ["12", "3", "6", "9"].map((key) => station(key)),
  passes: 1,
  turn: (more.stations ?? ["12", "3", "6", "9"].map((key) => station(key))).map((s) => s.key),
  next_station: "12",
  expectation: null,
  readings: [],
  brief: { ready: false, complete: false, verdict: null, values: [] },
  predicted: [],
  move: null,
  notes: [],
  photos: [],
  settled_at: null,
  opened_at: "2026-03-01T19:00:00Z",
  core_version: "2.0",
  ...more,
});

export const aCheck = (round: RoundState, more: Partial<CheckState> = {}): CheckState => ({
  id: "c1",
  kind: "spindle_tram",
  machine_id: "m1",
  machine_name: "Avocet",
  workshop_id: "w1",
  can_write: true,
  has_standin: false,
  powered: false,
  setup_schema: {
    properties: {
      kind: { const: "spindle_tram" },
      radius_mm: { title: "Radius", "x-form": { field: "length" } },
      passes: { title: "Passes", default: 2, "x-form": { field: "integer" } },
    },
  },
  cost: null,
  letters: "",
  cautions: [],
  limits: [],
  limits_for: "",
  opened_at: "2026-03-01T19:00:00Z",
  closed_at: null,
  first_move: false,
  detour: null,
  goes_by: [],
  rounds: [round],
  ...more,
});

export const tram: Kind = {
  key: "spindle_tram",
  title: "Tram",
  question: "Is the spindle square to the table?",
  stage: "tram",
  layout: "round",
  needs_instrument: true,
  cuts: false,
  takes: { swing: ["plunger_dial", "lever_dial"], gap: ["feeler_blades"] },
  guide: {
    purpose: words("Square"),
    costs: words(""),
    minutes: 20,
    round_minutes: 10,
    recheck_days: 90,
    recheck_hours: 50,
    kit: [],
    cautions: [],
    steps: [],
    schools: [],
    not_tested: [],
    stop: words(""),
  },
};

export const preview = (text: string, more: Partial<Schemas["PreviewOut"]> = {}) => ({
  shown_mm: 0.12,
  text,
  words: words(`${text} read`),
  spoken: words(text),
  needle: null,
  question: null,
  sentence: null,
  verdict: null,
  ...more,
});

/** Turns the reader's units round. */
export function OtherUnits() {
  const { system, change } = useSettings();
  return (
    <button
      type="button"
      onClick={() => change({ system: system === "metric" ? "inch" : "metric" })}
    >
      Other units
    </button>
  );
}
