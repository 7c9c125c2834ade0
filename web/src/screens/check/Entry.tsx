import Box from "@mui/material/Box";
import { useLayoutEffect, useRef } from "react";
import type { ReadingUnit, RoundState } from "../../api/client";
import { Needle } from "../../parts/Needle";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import type { ReadingInHand } from "./inHand";
import { LengthUnit } from "./LengthUnit";

const BOTH: readonly ReadingUnit[] = ["mm", "in"];

/** A length: the needle to drag, the field to type in, and how it was understood. */
export function Entry({
  hand,
  round,
  locked,
}: {
  hand: ReadingInHand;
  round: RoundState;
  locked: boolean;
}) {
  const { say } = useSettings();
  const { instrument, dial } = round;
  const { station, text, unit, understood, problem } = hand;
  const field = useRef<HTMLInputElement>(null);
  const key = station?.key;
  // with the words of the station, not after them: whoever presses a button by then keeps it
  // biome-ignore lint/correctness/useExhaustiveDependencies: the field is taken up anew at each station
  useLayoutEffect(() => {
    if (!window.matchMedia?.("(pointer: coarse)").matches) field.current?.focus();
  }, [key]);
  return (
    <>
      {instrument && dial?.needle && (
        <Box sx={{ width: { xs: 208, md: 244 }, height: { xs: 208, md: 244 }, mx: "auto" }}>
          <Needle
            instrument={instrument}
            at={hand.dial ?? understood?.needle ?? null}
            text={understood ? say(understood.words) : ""}
            drag={hand.drag}
          />
        </Box>
      )}
      <Box sx={{ display: "flex", gap: 1, mt: 1.5, alignItems: "stretch" }}>
        <Box
          component="input"
          ref={field}
          aria-label={`Reading${station ? ` at ${say(station.label)}` : ""}, in ${unit}`}
          aria-invalid={problem !== null && problem !== undefined}
          aria-describedby="understood"
          value={hand.dial ? (understood?.text.replace(/ div$/, "") ?? "") : text}
          inputMode="none"
          autoComplete="off"
          disabled={locked || !station}
          onChange={(e: React.ChangeEvent<HTMLInputElement>) => hand.type(e.target.value)}
          onKeyDown={(e: React.KeyboardEvent) => {
            if (hand.doubt && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
              e.preventDefault();
              hand.other(e.key === "ArrowUp" ? 1 : -1);
              return;
            }
            if (e.key !== "Enter") return;
            e.preventDefault();
            if (e.shiftKey) hand.back();
            else void hand.enter();
          }}
          sx={(t) => ({
            flex: 1,
            minWidth: 0,
            fontFamily: mono,
            fontSize: 40,
            lineHeight: 1.2,
            px: 1.5,
            color: "text.primary",
            bgcolor: "background.paper",
            border: `2px solid ${problem ? t.palette.status.out : t.palette.primary.main}`,
            borderRadius: "3px",
          })}
        />
        <LengthUnit
          units={dial?.units ?? BOTH}
          value={unit}
          change={hand.setUnit}
          disabled={locked}
        />
      </Box>
      <Box id="understood" role="status" sx={{ minHeight: 30, mt: 0.5 }}>
        {problem ? (
          <Box component="span" sx={{ color: "error.main" }}>
            {problem}
          </Box>
        ) : understood && hand.fresh ? (
          <>read as {say(understood.words)}</>
        ) : (
          <Box component="span" sx={{ color: "text.secondary" }}>
            {dial?.plus_means}
          </Box>
        )}
      </Box>
    </>
  );
}
