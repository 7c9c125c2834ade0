import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { CheckState, RoundState } from "../../api/client";
import { discard, redirect, useOutbox } from "../../api/outbox";
import { Remark } from "../../parts/Waiting";

/** Readings that the record would not take: kept here until the person says what to do with them. */
export function Strays({ check, last }: { check: CheckState; last: RoundState }) {
  const strays = useOutbox().filter((item) => item.checkId === check.id && item.refused);
  return (
    <>
      {strays.map((item) => (
        <Remark key={item.id} tone="error" role="alert">
          <b>
            {item.body.text} {item.body.unit} at {item.body.station}
          </b>{" "}
          was not taken: {item.refused?.message}
          <Box>
            {item.roundId !== last.id && !last.settled_at && (
              <Button size="small" onClick={() => void redirect(item.id, last.id)}>
                Put it into round {last.number}
              </Button>
            )}
            <Button size="small" onClick={() => void discard(item.id)}>
              Drop it
            </Button>
          </Box>
        </Remark>
      ))}
    </>
  );
}
