import { useTheme } from "@mui/material/styles";

/** The square that settles. */
export function Mark({ size }: { size: number }) {
  const { palette } = useTheme();
  const box = { x: 7, y: 7, width: 18, height: 18 };
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden="true" style={{ flex: "none" }}>
      <rect
        {...box}
        fill="none"
        stroke={palette.pencil}
        strokeWidth="1.5"
        strokeDasharray="3 2"
        transform="rotate(8 16 16)"
      />
      <rect {...box} fill={palette.primary.main} />
    </svg>
  );
}
