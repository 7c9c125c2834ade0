import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { useMutation } from "@tanstack/react-query";
import { type ApiProblem, api, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Me } from "../../api/queries";
import { count } from "../../parts/KeptHere";
import { Remark } from "../../parts/Waiting";
import { SignInForm } from "./SignInForm";

/** The session has ended: sign in over the screen as it stands, and go on where one was. */
export function SessionEnded({
  who,
  entered,
  leave,
}: {
  who: Me;
  entered: (me: Me) => void;
  leave: () => void;
}) {
  const kept = useOutbox().length;
  const visitor = (who.workshops ?? []).every((w) => w.is_demo) && who.demo_offered;
  const demo = useMutation<Me, ApiProblem>({
    mutationFn: () => told(api.POST("/api/v1/demo/open")),
    onSuccess: entered,
  });
  return (
    <Dialog open aria-labelledby="session-ended">
      <Box sx={{ p: 3, display: "grid", gap: 2, maxWidth: 460 }}>
        <Box id="session-ended" sx={{ fontWeight: 700, fontSize: "1.3rem" }}>
          Your session has ended
        </Box>
        {visitor ? (
          <>
            <Box>This visit to the demo is over; its shed has been put away.</Box>
            {demo.error && <Remark tone="error">{demo.error.message}</Remark>}
            <Button variant="contained" disabled={demo.isPending} onClick={() => demo.mutate()}>
              Open the demo workshop anew
            </Button>
          </>
        ) : (
          <>
            <Box>
              Sign in to go on where you were. What you typed is still on this screen
              {kept > 0 && `, and ${count(kept)} on this device will be sent then`}.
            </Box>
            <SignInForm entered={entered} email={who.email ?? ""} main />
          </>
        )}
        <Button onClick={leave}>Leave this screen</Button>
      </Box>
    </Dialog>
  );
}
