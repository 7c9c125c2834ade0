/**
 * A page has an address that its calls start from, and somebody answers them. The client takes
 * hold of both when its module is read, so they are here before any module is; tests say who answers
 * by `answerBy`.
 */
import "fake-indexeddb/auto";

type Answering = (request: Request) => Promise<Response>;
const HERE = globalThis as unknown as { answering?: Answering };

const At = globalThis.Request;
/** When each is given up: the page's signals are none that this Request knows. */
const ends = new WeakMap<Request, AbortSignal>();
globalThis.Request = class extends At {
  constructor(input: RequestInfo | URL, init: RequestInit = {}) {
    const { signal, ...rest } = init;
    super(typeof input === "string" ? new URL(input, "http://shed.test") : input, rest);
    const until = signal ?? (input instanceof At ? ends.get(input) : undefined);
    if (until) ends.set(this, until);
  }
};
globalThis.fetch = async (request) => {
  if (!HERE.answering) throw new TypeError("no network");
  const until = ends.get(request as Request);
  const given = new Promise<never>((_, reject) => {
    until?.addEventListener("abort", () => reject(new TypeError("given up")));
  });
  return Promise.race([HERE.answering(request as Request), given]);
};

export function answerBy(answering: Answering): void {
  HERE.answering = answering;
}
