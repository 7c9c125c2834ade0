import { useMe } from "../api/queries";

/** A time as the workshop's clock shows it. */
export function useWhen(): (iso: string) => string {
  const me = useMe();
  const zone = me.data?.workshops?.[0]?.time_zone ?? "UTC";
  const format = new Intl.DateTimeFormat("en-GB", {
    dateStyle: "medium",
    timeStyle: "short",
    timeZone: zone,
  });
  return (iso) => format.format(new Date(iso));
}
