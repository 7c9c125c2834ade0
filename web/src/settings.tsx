/** What the reader chose on this device: system of units, theme, and whether to read aloud. */
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import { readIn, type Words } from "./api/client";

export interface Settings {
  system: "metric" | "inch";
  theme: "light" | "dark";
  speech: boolean;
}

interface Value extends Settings {
  change: (part: Partial<Settings>) => void;
  say: (words: Words | null | undefined) => string;
}

const KEY = "calm-square.settings";
const Context = createContext<Value | null>(null);

function initial(): Settings {
  const usual: Settings = {
    system: "metric",
    theme: window.matchMedia?.("(prefers-color-scheme: dark)").matches ? "dark" : "light",
    speech: false,
  };
  try {
    return { ...usual, ...JSON.parse(localStorage.getItem(KEY) ?? "{}") };
  } catch {
    return usual;
  }
}

export function SettingsProvider({ children }: { children: ReactNode }) {
  const [settings, setSettings] = useState(initial);
  const change = useCallback((part: Partial<Settings>) => {
    setSettings((old) => {
      const next = { ...old, ...part };
      localStorage.setItem(KEY, JSON.stringify(next));
      return next;
    });
  }, []);
  // before any request of the screens below goes out
  readIn(settings.system);
  const value = useMemo<Value>(
    () => ({ ...settings, change, say: (words) => words?.[settings.system] ?? "" }),
    [settings, change],
  );
  return <Context value={value}>{children}</Context>;
}

export function useSettings(): Value {
  const value = useContext(Context);
  if (!value) throw new Error("SettingsProvider is missing");
  return value;
}
