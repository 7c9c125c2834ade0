import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, type Me } from "../../api/queries";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { invitedTo, useInvited, useSecret } from "./invitation";

/** Somebody signed in has opened the link of an invitation. */
export default function Join({ me }: { me: Me }) {
  const secret = useSecret();
  const invited = useInvited(secret);
  const go = useNavigate();
  const client = useQueryClient();
  const join = useMutation<Schemas["Created"], ApiProblem>({
    mutationFn: () => told(api.POST("/api/v1/auth/join", { body: { secret } })),
    onSuccess: async ({ id }) => {
      await client.invalidateQueries({ queryKey: keys.me });
      go(`/w/${id}`, { replace: true });
    },
  });
  if (invited.isPending && secret) return <Loading />;
  return (
    <Box sx={{ maxWidth: 560, mx: "auto", px: 2, py: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        An invitation
      </Typography>
      {invited.data ? (
        <>
          <Typography sx={{ mb: 2 }}>{invitedTo(invited.data)}</Typography>
          {join.error && (
            <Remark tone="error" role="alert">
              {join.error.message}
            </Remark>
          )}
          <Box sx={{ display: "flex", gap: 1 }}>
            <Button variant="contained" disabled={join.isPending} onClick={() => join.mutate()}>
              Join as {me.name}
            </Button>
            <Button onClick={() => go("/")}>Not now</Button>
          </Box>
        </>
      ) : invited.error ? (
        <Failed problem={invited.error} />
      ) : (
        <Remark>This link carries no invitation. Open it as it was sent to you.</Remark>
      )}
    </Box>
  );
}
