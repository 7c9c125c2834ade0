import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { type ApiProblem, api, inFull, told } from "../../api/client";
import type { Me } from "../../api/queries";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";

interface Form {
  name: string;
  email: string;
  password: string;
}

/** Who are you: an existing account, or a new one. */
export function SignInForm({
  entered,
  email,
  main,
  invitation,
}: {
  entered: (me: Me) => void;
  /** Whose session it was; nobody else is asked for. */
  email?: string;
  /** The one thing to do here. */
  main: boolean;
  /** What the link carries by which they came: most who have one are new here. */
  invitation?: string;
}) {
  const [joining, setJoining] = useState(invitation !== undefined);
  const { system, change } = useSettings();
  const go = useNavigate();
  const enter = useMutation<Me, ApiProblem, Form>({
    mutationFn: ({ name, email, password }) =>
      joining
        ? told(
            api.POST("/api/v1/auth/sign-up", {
              body: {
                name,
                email,
                password,
                time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
                invitation: invitation ?? "",
              },
            }),
          )
        : told(api.POST("/api/v1/auth/sign-in", { body: { email, password } })),
    onSuccess: (me) => {
      // a new account has taken it up; one that was there is asked first
      if (joining && invitation) go("/", { replace: true });
      entered(me);
    },
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const text = (key: string) => String(data.get(key) ?? "");
    enter.mutate({ name: text("name"), email: text("email"), password: text("password") });
  };
  const at = (field: string) => {
    const found = enter.error?.errors.find((e) => e.field === field);
    return {
      error: found !== undefined,
      helperText: found && inFull(found),
    };
  };
  return (
    <Box
      component="form"
      noValidate
      onSubmit={submit}
      sx={{ display: "grid", gap: 2, maxWidth: 400 }}
    >
      <Typography variant="h2">{joining ? "Make an account" : "Sign in"}</Typography>
      {joining && <TextField name="name" label="Name" autoComplete="name" {...at("name")} />}
      <TextField
        name="email"
        label="Email"
        type="email"
        autoComplete="email"
        defaultValue={email}
        {...at("email")}
      />
      <TextField
        name="password"
        label="Password"
        type="password"
        autoFocus={email !== undefined}
        autoComplete={joining ? "new-password" : "current-password"}
        {...at("password")}
      />
      {joining && (
        <Box>
          <Typography id="reads-in" sx={{ color: "text.secondary", mb: 0.5 }}>
            You read in
          </Typography>
          <ToggleButtonGroup
            exclusive
            aria-labelledby="reads-in"
            value={system}
            onChange={(_, picked) => picked && change({ system: picked })}
          >
            <ToggleButton value="metric" sx={{ px: 2 }}>
              millimetres
            </ToggleButton>
            <ToggleButton value="inch" sx={{ px: 2 }}>
              inches
            </ToggleButton>
          </ToggleButtonGroup>
        </Box>
      )}
      {enter.error && enter.error.errors.length === 0 && (
        <Remark tone="error" role="alert">
          {enter.error.message}
        </Remark>
      )}
      <Button type="submit" variant={main ? "contained" : "outlined"} disabled={enter.isPending}>
        {joining ? "Make the account" : "Sign in"}
      </Button>
      {email === undefined && (
        <Button
          onClick={() => {
            setJoining(!joining);
            enter.reset();
          }}
        >
          {joining ? "I have an account" : "I am new here"}
        </Button>
      )}
    </Box>
  );
}
