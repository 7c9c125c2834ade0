/** For words that are heard and not seen. */
export const visuallyHidden = {
  position: "absolute",
  width: 1,
  height: 1,
  m: "-1px",
  overflow: "hidden",
  clip: "rect(0 0 0 0)",
  whiteSpace: "nowrap",
} as const;
