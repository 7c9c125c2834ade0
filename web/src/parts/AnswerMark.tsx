import type { Schemas, Status } from "../api/client";
import { VerdictMark } from "./VerdictMark";

export type Answer = Schemas["JobAt"]["answer"];

export const ANSWER_WORDS: Record<Answer, string> = {
  fits: "Fits",
  no: "Does not fit",
  close: "Too close to call",
  unknown: "Not known",
  outside: "Cannot be made here",
};

export const ANSWER_STATUS: Record<Answer, Status> = {
  fits: "true",
  no: "out",
  close: "too_close",
  unknown: "unmeasured",
  outside: "stale",
};

/** Whether it is good enough, by the square that everything here is judged by. */
export function AnswerMark({ answer, words }: { answer: Answer; words?: string }) {
  return <VerdictMark status={ANSWER_STATUS[answer]} words={words ?? ANSWER_WORDS[answer]} />;
}
