import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { type ApiProblem, api, told } from "../../api/client";
import type { Me } from "../../api/queries";
import { Mark } from "../../parts/Mark";
import { Remark } from "../../parts/Waiting";
import { invitedTo, useInvited, useSecret } from "./invitation";
import { SignInForm } from "./SignInForm";

export function SignIn({
  demoOffered,
  entered,
}: {
  demoOffered: boolean;
  entered: (me: Me) => void;
}) {
  const demo = useMutation<Me, ApiProblem>({
    mutationFn: () => told(api.POST("/api/v1/demo/open")),
    onSuccess: entered,
  });
  const secret = useSecret();
  const invited = useInvited(secret);
  return (
    <Box
      component="main"
      sx={{
        minHeight: "100dvh",
        display: "grid",
        gridTemplateColumns: { md: "1.15fr 1fr" },
        alignItems: "center",
        gap: { xs: 4, md: 8 },
        maxWidth: 1120,
        mx: "auto",
        p: { xs: 3, md: 6 },
      }}
    >
      <Box>
        <Box sx={{ ml: -2, mb: 1 }}>
          <Mark size={104} />
        </Box>
        <Typography variant="h1" sx={{ fontSize: { xs: "2rem", md: "2.6rem" }, mb: 1.5 }}>
          Calm Square
        </Typography>
        <Typography sx={{ fontSize: "1.2rem", maxWidth: 460, mb: 4 }}>
          Measure your mill or router, learn what is out, which way and by how much, and what to do
          about it, until it is true.
        </Typography>
        {invited.data && <Remark>{invitedTo(invited.data)}</Remark>}
        {invited.error && (
          <Remark tone="error" role="alert">
            {invited.error.message}
          </Remark>
        )}
        {demoOffered && !secret && (
          <>
            <Button
              variant="contained"
              size="large"
              disabled={demo.isPending}
              onClick={() => demo.mutate()}
            >
              Open the demo workshop
            </Button>
            <Typography sx={{ mt: 1, color: "text.secondary" }}>
              The Saltmarsh Shed: three machines, an evening’s work under way. No account needed.
            </Typography>
            {demo.error && (
              <Remark tone="error" role="alert">
                {demo.error.message}
              </Remark>
            )}
          </>
        )}
      </Box>
      <SignInForm
        key={String(invited.isSuccess)}
        entered={entered}
        main={!demoOffered || secret !== ""}
        invitation={invited.data ? secret : undefined}
      />
    </Box>
  );
}
