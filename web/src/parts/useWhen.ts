import { useMe } from "../api/queries";

function useZone(): string {
  const me = useMe();
  return me.data?.workshops?.[0]?.time_zone ?? "UTC";
}

/** A time as the workshop's clock shows it. */
export function useWhen(): (iso: string) => string {
  const format = new Intl.DateTimeFormat("en-GB", {
    dateStyle: "medium",
    timeStyle: "short",
    timeZone: useZone(),
  });
  return (iso) => format.format(new Date(iso));
}

/** A day as the workshop's calendar shows it; a date without a time is that very day. */
export function useDay(): (iso: string) => string {
  const zone = useZone();
  return (iso) =>
    new Intl.DateTimeFormat("en-GB", {
      dateStyle: "medium",
      timeZone: iso.length === 10 ? "UTC" : zone,
    }).format(new Date(iso));
}

/** Minutes from now as the clock will show them. */
export function useClock(): (minutes: number) => string {
  const format = new Intl.DateTimeFormat("en-GB", { timeStyle: "short", timeZone: useZone() });
  return (minutes) => format.format(new Date(Date.now() + minutes * 60_000));
}
