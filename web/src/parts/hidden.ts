/** For words that are heard and not seen. */
export const visuallyHidden = {
  position: "absolute",
  // as text: bare numbers up to 1 are shares of the whole
  width: "1px",
  height: "1px",
  m: "-1px",
  overflow: "hidden",
  clip: "rect(0 0 0 0)",
  whiteSpace: "nowrap",
} as const;
