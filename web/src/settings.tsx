/** What the reader chose on this device: system of units, theme, and whether to read aloud. Until
 * a theme is chosen, it is that of the device, which may change with the hour. */
import useMediaQuery from "@mui/material/useMediaQuery";
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

function stored(): Partial<Settings> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "{}");
  } catch {
    return {};
  }
}

export function SettingsProvider({ children }: { children: ReactNode }) {
  const [chosen, choose] = useState(stored);
  const night = useMediaQuery("(prefers-color-scheme: dark)", { noSsr: true });
  const settings = useMemo<Settings>(
    () => ({ system: "metric", theme: night ? "dark" : "light", speech: false, ...chosen }),
    [chosen, night],
  );
  const change = useCallback((part: Partial<Settings>) => {
    choose((old) => {
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
