import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { KeyboardEvent, ReactNode } from "react";
import type { Schemas } from "../../api/client";

type Kind = Schemas["FeatureForm"];

/** A part with one of everything on it: press what yours has. */
export function PartPicture({
  kinds,
  pick,
}: {
  kinds: readonly Kind[];
  pick: (kind: string) => void;
}) {
  const c = useTheme().palette;
  const pen = { stroke: c.ink, strokeWidth: 1.6, fill: "none", strokeLinejoin: "round" } as const;
  const faint = { ...pen, stroke: c.pencil, strokeWidth: 1 };
  const area = (kind: string, children: ReactNode) => {
    const known = kinds.find((k) => k.kind === kind);
    if (!known) return null;
    const press = (e: KeyboardEvent) => {
      if (e.key !== "Enter" && e.key !== " ") return;
      e.preventDefault();
      pick(kind);
    };
    return (
      // biome-ignore lint/a11y/useSemanticElements: a button cannot stand inside a drawing
      <g
        key={kind}
        role="button"
        tabIndex={0}
        aria-label={`Add: ${known.title}`}
        onClick={() => pick(kind)}
        onKeyDown={press}
        className="area"
      >
        <title>{`${known.title}: ${known.says}`}</title>
        {children}
      </g>
    );
  };
  return (
    <Box
      component="svg"
      viewBox="0 0 400 232"
      aria-label="A part to pick features from"
      sx={{
        width: "100%",
        maxWidth: 520,
        "& .area": { cursor: "pointer" },
        "& .area:hover, & .area:focus-visible": { outline: "none" },
        "& .area .hit": { fill: "transparent" },
        "& .area:hover .hit, & .area:focus-visible .hit": {
          fill: c.primary.main,
          fillOpacity: 0.18,
        },
      }}
    >
      {area(
        "face",
        <>
          <path d="M60 108 132 40H372L300 108Z" {...pen} />
          <path className="hit" d="M60 108 132 40H372L300 108Z" />
          <path d="M84 92H300M100 77H316M116 62H332" {...faint} strokeDasharray="2 5" />
        </>,
      )}
      {area(
        "wall",
        <>
          <path d="M60 108H300V178H60Z" {...pen} />
          <path className="hit" d="M60 108H300V178H60Z" />
          <path d="M60 126H300M60 144H300M60 162H300" {...faint} strokeDasharray="1 6" />
        </>,
      )}
      {area(
        "two_sides",
        <>
          <path d="M300 108 372 40V108L300 178Z" {...pen} />
          <path className="hit" d="M300 108 372 40V108L300 178Z" />
          <path d="M352 84A16 16 0 1 0 346 118" {...pen} />
          <path d="M340 116 347 118 347 111" {...pen} />
        </>,
      )}
      {area(
        "outline",
        <>
          <path className="hit" d="M96 100 150 48H214L160 100Z" />
          <path d="M100 97 149 51H208L159 97Z" {...faint} strokeDasharray="5 4" />
          {[
            [108, 92],
            [150, 56],
            [200, 56],
            [158, 92],
          ].map(([x, y]) => (
            <ellipse key={`${x}${y}`} cx={x} cy={y} rx="5" ry="2.6" {...pen} />
          ))}
        </>,
      )}
      {area(
        "hole",
        <>
          <ellipse className="hit" cx="182" cy="74" rx="16" ry="10" />
          <ellipse cx="182" cy="74" rx="12" ry="6.5" {...pen} />
          <path d="M170 75C172 84 192 84 194 75" {...faint} />
        </>,
      )}
      {area(
        "slot",
        <>
          <path className="hit" d="M206 100 252 56H274L228 100Z" />
          <path d="M212 96 252 58H266L226 96Z" {...pen} />
          <path d="M214 98 256 60" {...faint} />
        </>,
      )}
      {area(
        "engraving",
        <>
          <path className="hit" d="M256 100 300 56H346L304 100Z" />
          <path d="M272 92 284 78 288 92 300 78M298 92 312 70M308 92 322 76 314 74" {...pen} />
        </>,
      )}
      {area(
        "thickness",
        <>
          <rect className="hit" x="12" y="100" width="44" height="86" />
          <path
            d="M30 108V178M24 116 30 108 36 116M24 170 30 178 36 170M22 108H54M22 178H54"
            {...pen}
          />
        </>,
      )}
      {area(
        "small_cutter",
        <>
          <rect className="hit" x="316" y="4" width="56" height="62" />
          <path
            d="M334 4V26L340 34V56M352 4V26L346 34V56M340 56 346 50M340 46 346 40M340 56H346"
            {...pen}
          />
        </>,
      )}
      <path d="M70 196H290" {...faint} />
      <text x="180" y="214" textAnchor="middle" fill={c.pencil} fontSize="13">
        press what your part has
      </text>
    </Box>
  );
}
