import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link as RouterLink } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, type Me } from "../../api/queries";
import { Remark } from "../../parts/Waiting";

export default function Account({ me }: { me: Me }) {
  return (
    <Box sx={{ maxWidth: 560, mx: "auto", px: 2, py: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        {me.name}
      </Typography>
      <Workshops me={me} />
      <Password />
    </Box>
  );
}

function Workshops({ me }: { me: Me }) {
  const client = useQueryClient();
  const make = useMutation<Schemas["Created"], ApiProblem, string>({
    mutationFn: (name) =>
      told(
        api.POST("/api/v1/workshops", {
          body: { name, time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.me }),
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    make.mutate(String(new FormData(form).get("name") ?? ""), { onSuccess: () => form.reset() });
  };
  return (
    <Box component="section" sx={{ mb: 4 }}>
      <Typography variant="h2">Workshops</Typography>
      <ul>
        {me.workshops?.map((w) => (
          <li key={w.id}>
            <Link component={RouterLink} to={`/w/${w.id}`}>
              {w.name}
            </Link>
            , {w.role} ·{" "}
            <Link component={RouterLink} to={`/w/${w.id}/members`}>
              members
            </Link>
          </li>
        ))}
      </ul>
      <Box
        component="form"
        noValidate
        onSubmit={submit}
        sx={{ display: "flex", gap: 1, alignItems: "flex-start" }}
      >
        <TextField
          name="name"
          id="workshop-name"
          label="Another workshop"
          error={make.isError}
          helperText={make.error?.message}
        />
        <Button type="submit" variant="outlined" disabled={make.isPending}>
          Make it
        </Button>
      </Box>
    </Box>
  );
}

function Password() {
  const [changed, setChanged] = useState(false);
  const change = useMutation<Me, ApiProblem, Schemas["NewPassword"]>({
    mutationFn: (body) => told(api.POST("/api/v1/auth/password", { body })),
    onSuccess: () => setChanged(true),
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    setChanged(false);
    change.mutate(
      { old: String(data.get("old") ?? ""), new: String(data.get("new") ?? "") },
      { onSuccess: () => form.reset() },
    );
  };
  const at = (field: string) => {
    const found = change.error?.errors.find((e) => e.field === field);
    return { error: found !== undefined, helperText: found?.message };
  };
  return (
    <Box component="form" noValidate onSubmit={submit} sx={{ display: "grid", gap: 2 }}>
      <Typography variant="h2">Password</Typography>
      <TextField
        name="old"
        id="old"
        label="Present password"
        type="password"
        autoComplete="current-password"
        {...at("old")}
      />
      <TextField
        name="new"
        id="new"
        label="New password"
        type="password"
        autoComplete="new-password"
        {...at("new")}
      />
      <Button
        type="submit"
        variant="outlined"
        disabled={change.isPending}
        sx={{ justifySelf: "start" }}
      >
        Change it
      </Button>
      {changed && (
        <Remark role="status">The password is changed; other devices are signed out.</Remark>
      )}
    </Box>
  );
}
