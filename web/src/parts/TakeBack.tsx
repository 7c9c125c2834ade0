import Button from "@mui/material/Button";
import { api, told } from "../api/client";
import { useMachineChange } from "../api/queries";
import { Remark } from "./Waiting";

type Type = "events" | "moves" | "photos" | "notes" | "decisions" | "acceptances";

/** Takes a record back that was logged wrongly, or puts it back again; both can be undone. */
export function TakeBack({
  type,
  id,
  taken,
  what,
  done,
}: {
  type: Type;
  id: string;
  taken: boolean;
  /** What it is, for a reader who does not see where the button stands. */
  what: string;
  done?: () => void;
}) {
  const change = useMachineChange((taken_back: boolean) =>
    told(
      api.PUT("/api/v1/records/{record_type}/{record_id}/taken-back", {
        params: { path: { record_type: type, record_id: id } },
        body: { taken_back },
      }),
    ),
  );
  const text = taken ? "Put it back" : "Take back";
  return (
    <>
      <Button
        size="small"
        disabled={change.isPending}
        onClick={() => change.mutate(!taken, { onSuccess: done })}
        aria-label={`${text}: ${what}`}
        sx={{ minHeight: 36, py: 0, px: 1 }}
      >
        {text}
      </Button>
      {change.error && (
        <Remark tone="error" role="alert">
          {change.error.message}
        </Remark>
      )}
    </>
  );
}
