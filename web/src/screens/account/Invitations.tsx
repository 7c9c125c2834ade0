import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, useInvitations } from "../../api/queries";
import { useDay } from "../../parts/useWhen";
import { Remark } from "../../parts/Waiting";
import { JOIN } from "../signin/invitation";

type Role = Schemas["InvitationOut"]["role"];

/** Links that each let one person in: make one, and take it back while nobody has used it. */
export function Invitations({
  workshopId,
  roles,
}: {
  workshopId: string;
  roles: Record<Role, string>;
}) {
  const client = useQueryClient();
  const day = useDay();
  const open = useInvitations(workshopId);
  const [role, setRole] = useState<Role>("maker");
  const fresh = () => client.invalidateQueries({ queryKey: keys.invitations(workshopId) });
  const make = useMutation<Schemas["InvitationMade"], ApiProblem, string>({
    mutationFn: (whom) =>
      told(
        api.POST("/api/v1/workshops/{workshop_id}/invitations", {
          params: { path: { workshop_id: workshopId } },
          body: { role, whom },
        }),
      ),
    onSettled: fresh,
  });
  const back = useMutation<unknown, ApiProblem, string>({
    mutationFn: (invitation_id) =>
      told(
        api.DELETE("/api/v1/invitations/{invitation_id}", { params: { path: { invitation_id } } }),
      ),
    onSuccess: (_, id) => {
      if (make.data?.invitation.id === id) make.reset();
    },
    onSettled: fresh,
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const whom = String(new FormData(form).get("whom") ?? "");
    make.mutate(whom, { onSuccess: () => form.reset() });
  };
  const problem = make.error ?? back.error;
  return (
    <Box component="section" sx={{ mt: 4 }}>
      <Typography variant="h2">Let somebody in</Typography>
      <Typography sx={{ mb: 2, color: "text.secondary" }}>
        Make a link and send it to them yourself. It lets one person in, once they open it and say
        yes; with an account or without one yet.
      </Typography>
      <Box component="form" noValidate onSubmit={submit} sx={{ display: "grid", gap: 2 }}>
        <TextField name="whom" id="whom" label="Whom it is for" helperText="A note to yourself" />
        <TextField
          select
          label="They may"
          value={role}
          onChange={(e) => setRole(e.target.value as Role)}
          slotProps={{ select: { inputProps: { id: "role" } }, inputLabel: { htmlFor: "role" } }}
        >
          {Object.entries(roles).map(([key, text]) => (
            <MenuItem key={key} value={key}>
              {text}
            </MenuItem>
          ))}
        </TextField>
        <Button
          type="submit"
          variant="outlined"
          disabled={make.isPending}
          sx={{ justifySelf: "start" }}
        >
          Make a link
        </Button>
      </Box>
      {problem && (
        <Remark tone="error" role="alert">
          {problem.message}
        </Remark>
      )}
      {make.data && <Link made={make.data} />}
      {open.data?.map((invitation) => (
        <Box
          key={invitation.id}
          sx={(t) => ({
            borderTop: `1px solid ${t.palette.rule}`,
            mt: 2,
            pt: 1,
            display: "flex",
            flexWrap: "wrap",
            gap: 1,
            alignItems: "center",
          })}
        >
          <Box sx={{ flex: 1, minWidth: 180 }}>
            <b>{invitation.whom || "Somebody"}</b>, as {invitation.role}
            <Box sx={{ color: "text.secondary" }}>
              Not used yet; holds until {day(invitation.until)}.
            </Box>
          </Box>
          <Button
            size="small"
            disabled={back.isPending}
            onClick={() => back.mutate(invitation.id)}
            aria-label={`Take back the link for ${invitation.whom || "somebody"}`}
          >
            Take back
          </Button>
        </Box>
      ))}
    </Box>
  );
}

/** The link itself, which is shown this once. */
function Link({ made }: { made: Schemas["InvitationMade"] }) {
  const [copied, setCopied] = useState(false);
  const link = `${window.location.origin}${JOIN}#${made.secret}`;
  return (
    <Remark role="status">
      <Box sx={{ display: "grid", gap: 1 }}>
        <Box>
          Send this to {made.invitation.whom || "them"}. It is not shown again, and whoever has it
          first gets in.
        </Box>
        <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
          <TextField
            size="small"
            label="The link"
            id="invitation-link"
            value={link}
            onFocus={(e) => e.target.select()}
            sx={{ flex: 1, minWidth: 220 }}
            slotProps={{ htmlInput: { readOnly: true } }}
          />
          {/* a shed on plain HTTP has none: there the field is copied by hand */}
          {navigator.clipboard && (
            <Button
              variant="outlined"
              onClick={() => void navigator.clipboard.writeText(link).then(() => setCopied(true))}
            >
              {copied ? "Copied" : "Copy"}
            </Button>
          )}
        </Box>
      </Box>
    </Remark>
  );
}
