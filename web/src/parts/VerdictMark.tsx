import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { Status } from "../api/client";

export const STATUS_WORDS: Record<Status, string> = {
  true: "True",
  out: "Out",
  too_close: "Too close to call",
  stale: "Stale",
  unmeasured: "Not measured",
};

/** The square that settles: level and filled when true, tipped when out. Never without its word. */
export function Square({ status, size = 22 }: { status: Status; size?: number }) {
  const colour = useTheme().palette.status[status];
  const box = { x: 6, y: 6, width: 20, height: 20 };
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden="true" style={{ flex: "none" }}>
      {status === "true" && <rect {...box} fill={colour} />}
      {status === "out" && (
        <rect {...box} fill="none" stroke={colour} strokeWidth="3" transform="rotate(8 16 16)" />
      )}
      {status === "too_close" && (
        <>
          <rect {...box} fill="none" stroke={colour} strokeWidth="3" />
          <rect x="6" y="16" width="20" height="10" fill={colour} />
        </>
      )}
      {status === "stale" && (
        <rect {...box} fill="none" stroke={colour} strokeWidth="2.5" strokeDasharray="5 4" />
      )}
      {status === "unmeasured" && (
        <path
          d="M6 12V6h6M20 6h6v6M26 20v6h-6M12 26H6v-6"
          fill="none"
          stroke={colour}
          strokeWidth="2.5"
          strokeDasharray="2 2"
        />
      )}
    </svg>
  );
}

export function VerdictMark({
  status,
  size = 22,
  words,
}: {
  status: Status;
  size?: number;
  /** Instead of the usual ones. */
  words?: string;
}) {
  return (
    <Box component="span" sx={{ display: "inline-flex", alignItems: "center", gap: 1 }}>
      <Square status={status} size={size} />
      <Box component="span" sx={{ fontWeight: 600 }}>
        {words ?? STATUS_WORDS[status]}
      </Box>
    </Box>
  );
}
