import { useCallback } from "react";
import { useSettings } from "../settings";

/** Read a line aloud with the browser's own voice, when the reader asked for it. */
export function useSpeech(): (text: string) => void {
  const { speech } = useSettings();
  return useCallback(
    (text) => {
      if (!speech || !("speechSynthesis" in window)) return;
      window.speechSynthesis.cancel();
      window.speechSynthesis.speak(new SpeechSynthesisUtterance(text));
    },
    [speech],
  );
}
