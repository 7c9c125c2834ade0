import Button from "@mui/material/Button";
import { alpha, useTheme } from "@mui/material/styles";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useSettings } from "../../settings";
import type { ProgramState } from "./queries";

const WIDE = 640;
const CELLS = 130;

/** What a program leaves of the board, from above, its path over it, and where it goes wrong. */
export function ProgramPicture({
  program,
  picture,
}: {
  program: ProgramState;
  picture: Schemas["Picture"];
}) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const [whole, setWhole] = useState(false);
  const board = program.board ?? [0, 0, 1, 1];
  const [left, front, right, rear] = seen(board, whole ? null : program.report?.cutting);
  const edge = 0.05 * (right - left);
  const scale = WIDE / (right - left + 2 * edge);
  const high = (rear - front + 2 * edge) * scale;
  const px = (x: number) => (x - left + edge) * scale;
  const py = (y: number) => (rear + edge - y) * scale;
  const every = Math.max(1, Math.ceil(picture.x_mm.length / CELLS));
  const cell = ((picture.x_mm[1] ?? 1) - (picture.x_mm[0] ?? 0)) * every * scale;
  const lines = (all: number[][]) =>
    all.map((m) => `M${px(m[0] ?? 0)} ${py(m[1] ?? 0)}L${px(m[2] ?? 0)} ${py(m[3] ?? 0)}`).join("");
  const faults = (program.report?.faults ?? []).filter((f) => typeof f.x_mm === "number");
  return (
    <>
      <svg
        viewBox={`0 0 ${WIDE} ${high}`}
        role="img"
        aria-label={`What ${program.name} leaves of the board: at most ${say(picture.most_words)} is taken off; ${faults.length} places are marked`}
        style={{ width: "100%", maxHeight: "62vh", display: "block", overflow: "hidden" }}
      >
        <path
          d={`M${px(board[0] ?? 0)} ${py(board[1] ?? 0)}H${px(board[2] ?? 0)}V${py(board[3] ?? 0)}H${px(board[0] ?? 0)}Z`}
          fill="none"
          stroke={palette.ink}
          strokeWidth={1.5}
        />
        {picture.depth_mm.map((row, j) =>
          j % every
            ? null
            : row.map((v, i) =>
                i % every || v <= 0.001 ? null : (
                  <rect
                    // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place
                    key={`${i} ${j}`}
                    x={px(picture.x_mm[i] ?? 0) - cell / 2}
                    y={py(picture.y_mm[j] ?? 0) - cell / 2}
                    width={cell}
                    height={cell}
                    shapeRendering="crispEdges"
                    fill={alpha(palette.primary.main, 0.1 + (0.6 * v) / (picture.most_mm || 1))}
                  />
                ),
              ),
        )}
        <path d={lines(picture.cuts)} stroke={palette.ink} strokeWidth={0.8} fill="none" />
        <path
          d={lines(picture.rapids)}
          stroke={palette.pencil}
          strokeWidth={1}
          strokeDasharray="5 4"
          fill="none"
        />
        {program.kept.map((outline) => (
          <path
            key={outline.map((p) => p.join(" ")).join("L")}
            d={`M${outline.map((p) => `${px(p[0] ?? 0)} ${py(p[1] ?? 0)}`).join("L")}Z`}
            fill={alpha(palette.status.out, 0.15)}
            stroke={palette.status.out}
            strokeWidth={2}
          />
        ))}
        {faults.map((f, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: faults of one line may read alike
          <g key={i}>
            <path
              d={`M${px(f.x_mm ?? 0)} ${py(f.y_mm ?? 0) - 9}l9 16h-18z`}
              fill={palette.background.default}
              stroke={palette.status.out}
              strokeWidth={2}
            />
            <text
              x={px(f.x_mm ?? 0) + 12}
              y={py(f.y_mm ?? 0) + 5}
              fontSize={13}
              fill={palette.ink}
              stroke={palette.background.default}
              strokeWidth={3}
              paintOrder="stroke"
            >
              {`line ${f.line}`}
            </text>
          </g>
        ))}
      </svg>
      <Button onClick={() => setWhole(!whole)}>
        {whole ? "Show where it cuts" : "Show the whole board"}
      </Button>
    </>
  );
}

/** What is shown: the board, or where a program cuts and a little around it. */
function seen(
  board: number[],
  cuts: number[] | null | undefined,
): [number, number, number, number] {
  const [left = 0, front = 0, right = 1, rear = 1] = board;
  const [x0, y0, , x1, y1] = cuts ?? [];
  if (x0 === undefined || y0 === undefined || x1 === undefined || y1 === undefined)
    return [left, front, right, rear];
  const room = 0.15 * Math.max(x1 - x0, y1 - y0, 10);
  return [x0 - room, y0 - room, x1 + room, y1 + room];
}
