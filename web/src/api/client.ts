import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Words = Schemas["Words"];
export type CheckState = Schemas["CheckOut"];
export type RoundState = Schemas["RoundOut"];
export type Reading = Schemas["ReadingOut"];
export type Status = Schemas["CheckStatus"]["status"];
export type ReadingUnit = Schemas["ReadingIn"]["unit"];

export interface FieldError {
  field: string;
  message: string;
  expected: string;
}

/** What is wrong with a field, and what would be right. */
export function inFull({ message, expected }: Omit<FieldError, "field">): string {
  return `${message} ${expected}`.trim();
}

/** An error as the server tells it (problem details); `status` 0 means that it was not reached. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly errors: FieldError[] = [],
    readonly type = "about:blank",
  ) {
    super(detail);
  }

  /** What is wrong, and what would be right: its detail may hold both, or the first alone. */
  get whole(): string {
    return this.errors[0] ? inFull(this.errors[0]) : this.message;
  }

  /** The server was not reached, or could not answer for reasons of its own. */
  get temporary(): boolean {
    return this.status === 0 || this.status >= 500 || this.status === 429;
  }
}

function cookie(name: string): string {
  const found = document.cookie.split("; ").find((part) => part.startsWith(`${name}=`));
  return found ? decodeURIComponent(found.slice(name.length + 1)) : "";
}

let drawnFor = "";
let reads = "metric";
let onSessionEnd = () => {};
let onAnswer = () => {};

/** The person for whom this page is drawn: the server does nothing of it in another one's name. */
export function drawFor(id: string): void {
  drawnFor = id;
}

/** The units that problems are told in. */
export function readIn(system: "metric" | "inch"): void {
  reads = system;
}

/** What to do when the server no longer knows who this is. */
export function whenSessionEnds(act: () => void): void {
  onSessionEnd = act;
}

/** What to do when the server has answered, whatever it said. */
export function whenAnswered(act: () => void): void {
  onAnswer = act;
}

/** What a server says that is being restarted: nobody's mistake, and gone in a moment. */
export const AWAY = [502, 503, 504];

const session: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", cookie("csrftoken"));
    request.headers.set("X-Reads", reads);
    if (drawnFor) request.headers.set("X-Signed-In-As", drawnFor);
    return request;
  },
  onResponse({ request, response }) {
    if (!AWAY.includes(response.status)) onAnswer();
    if (response.status === 401 && !request.url.includes("/auth/")) onSessionEnd();
  },
};

export const api = createClient<paths>({ baseUrl: "", credentials: "same-origin" });
api.use(session);

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of a call, or an ApiProblem in the server's own words. */
export async function told<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiProblem(0, "No connection", "The server cannot be reached just now.");
  }
  if (answer.response.ok) return answer.data as T;
  const body = answer.error as Partial<Schemas["ProblemDetails"]> | undefined;
  throw new ApiProblem(
    answer.response.status,
    body?.title ?? "That did not work",
    body?.detail ?? `The server answered with ${answer.response.status}. Try again.`,
    (body?.errors ?? []).map((e) => ({ ...e, expected: e.expected ?? "" })),
    body?.type,
  );
}
