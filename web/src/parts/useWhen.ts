import { useMe } from "../api/queries";

function useZone(): string {
  const me = useMe();
  return me.data?.workshops?.[0]?.time_zone ?? "UTC";
}

const STYLES = {
  when: { dateStyle: "medium", timeStyle: "short" },
  day: { dateStyle: "medium" },
  clock: { timeStyle: "short" },
} as const;
const made = new Map<string, Intl.DateTimeFormat>();

/** One format is made once: to make it takes longer than all that a screen writes with it. */
function written(style: keyof typeof STYLES, timeZone: string, at: Date): string {
  const key = `${style} ${timeZone}`;
  const format = made.get(key) ?? new Intl.DateTimeFormat("en-GB", { ...STYLES[style], timeZone });
  made.set(key, format);
  return format.format(at);
}

/** A time as the workshop's clock shows it. */
export function useWhen(): (iso: string) => string {
  const zone = useZone();
  return (iso) => written("when", zone, new Date(iso));
}

/** A day as the workshop's calendar shows it; a date without a time is that very day. */
export function useDay(): (iso: string) => string {
  const zone = useZone();
  return (iso) => written("day", iso.length === 10 ? "UTC" : zone, new Date(iso));
}

/** Minutes from now as the clock will show them. */
export function useClock(): (minutes: number) => string {
  const zone = useZone();
  return (minutes) => written("clock", zone, new Date(Date.now() + minutes * 60_000));
}
