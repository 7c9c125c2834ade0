import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, useMe, useMembers } from "../../api/queries";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { Invitations } from "./Invitations";

type Role = Schemas["MemberOut"]["role"];

const ROLES: Record<Role, string> = {
  owner: "Owner: also decides who is in",
  maker: "Maker: measures and corrects",
  viewer: "Viewer: reads only",
};

export default function Members() {
  const { workshopId = "" } = useParams();
  const members = useMembers(workshopId);
  const me = useMe();
  const client = useQueryClient();
  const fresh = () => client.invalidateQueries({ queryKey: keys.members(workshopId) });
  const change = useMutation<unknown, ApiProblem, { id: number; to: Role | null }>({
    mutationFn: ({ id, to }) => {
      const params = { path: { member_id: id } };
      return to
        ? told(api.PUT("/api/v1/members/{member_id}", { params, body: { role: to } }))
        : told(api.DELETE("/api/v1/members/{member_id}", { params }));
    },
    onSettled: fresh,
  });
  if (members.isPending || me.isPending) return <Loading />;
  if (members.isError) return <Failed problem={members.error} />;
  const owner = me.data?.workshops?.find((w) => w.id === workshopId)?.role === "owner";
  return (
    <Box sx={{ maxWidth: 720, mx: "auto", px: 2, py: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        Members
      </Typography>
      {members.data.map((member) => (
        <Box
          key={member.id}
          sx={(t) => ({
            borderTop: `1px solid ${t.palette.rule}`,
            py: 1,
            display: "flex",
            flexWrap: "wrap",
            gap: 1,
            alignItems: "center",
          })}
        >
          <Box sx={{ flex: 1, minWidth: 180 }}>
            <b>{member.name}</b>
            <Box sx={{ color: "text.secondary" }}>{member.email}</Box>
          </Box>
          {owner ? (
            <>
              <TextField
                select
                size="small"
                value={member.role}
                onChange={(e) => change.mutate({ id: member.id, to: e.target.value as Role })}
                sx={{ width: 300 }}
                slotProps={{ select: { inputProps: { "aria-label": `Role of ${member.name}` } } }}
              >
                {Object.entries(ROLES).map(([key, text]) => (
                  <MenuItem key={key} value={key}>
                    {text}
                  </MenuItem>
                ))}
              </TextField>
              <Button
                size="small"
                onClick={() => change.mutate({ id: member.id, to: null })}
                aria-label={`Take out ${member.name}`}
              >
                Take out
              </Button>
            </>
          ) : (
            <Box>{ROLES[member.role]}</Box>
          )}
        </Box>
      ))}
      {change.error && (
        <Remark tone="error" role="alert">
          {change.error.message}
        </Remark>
      )}
      {owner && <Invitations workshopId={workshopId} roles={ROLES} />}
    </Box>
  );
}
