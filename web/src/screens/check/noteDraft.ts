/**
 * A note that is being written beside a round. It is kept as it is typed, and goes into the logbook
 * with whatever button ends the round; the person need not remember to add it first.
 */
import { useSyncExternalStore } from "react";
import { v4 as uuid } from "uuid";
import { api, type CheckState, told } from "../../api/client";

interface Draft {
  /** The note's own, so that one that is sent twice is one note. */
  id: string;
  text: string;
  /** It has been sent, and no answer came: another text is another note. */
  sent?: boolean;
}

const KEY = "calm-square.note.";
const listeners = new Set<() => void>();

function draftOf(roundId: string): Draft | null {
  const kept = sessionStorage.getItem(KEY + roundId);
  return kept ? (JSON.parse(kept) as Draft) : null;
}

export function writeNote(roundId: string, text: string): void {
  if (text === "") sessionStorage.removeItem(KEY + roundId);
  else {
    const before = draftOf(roundId);
    const draft: Draft = { id: before && !before.sent ? before.id : uuid(), text };
    sessionStorage.setItem(KEY + roundId, JSON.stringify(draft));
  }
  for (const listener of listeners) listener();
}

/** Put the note that is being written into the record, if there is one; its text goes once it is in. */
export async function keepNote(roundId: string): Promise<CheckState | null> {
  const draft = draftOf(roundId);
  if (!draft || draft.text.trim() === "") return null;
  sessionStorage.setItem(KEY + roundId, JSON.stringify({ ...draft, sent: true }));
  const check = await told(
    api.POST("/api/v1/rounds/{round_id}/notes", {
      params: { path: { round_id: roundId } },
      body: { id: draft.id, text: draft.text, written_at: new Date().toISOString() },
    }),
  );
  // what was typed meanwhile is another note
  if (draftOf(roundId)?.text === draft.text) writeNote(roundId, "");
  return check;
}

export const useNote = (roundId: string): string =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => draftOf(roundId)?.text ?? "",
  );
