/**
 * A page has an address that its calls start from, and somebody answers them. The client takes
 * hold of both when its module is read, so they are here before any module is; tests say who answers
 * by `answerBy`.
 */
import "fake-indexeddb/auto";

type Answering = (request: Request) => Promise<Response>;
const HERE = globalThis as unknown as { answering?: Answering };

const At = globalThis.Request;
globalThis.Request = class extends At {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, "http://shed.test") : input, init);
  }
};
globalThis.fetch = async (request) => {
  if (!HERE.answering) throw new TypeError("no network");
  return HERE.answering(request as Request);
};

export function answerBy(answering: Answering): void {
  HERE.answering = answering;
}
