import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type ApiProblem, api, told } from "../../api/client";
import { keys, type Me } from "../../api/queries";
import { Mark } from "../../parts/Mark";
import { Remark } from "../../parts/Waiting";

interface Form {
  name: string;
  email: string;
  password: string;
}

export function SignIn({ demoOffered }: { demoOffered: boolean }) {
  const client = useQueryClient();
  const [joining, setJoining] = useState(false);
  const entered = (me: Me) => client.setQueryData(keys.me, me);
  const demo = useMutation<Me, ApiProblem>({
    mutationFn: () => told(api.POST("/api/v1/demo/open")),
    onSuccess: entered,
  });
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
              },
            }),
          )
        : told(api.POST("/api/v1/auth/sign-in", { body: { email, password } })),
    onSuccess: entered,
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
      helperText: found ? `${found.message} ${found.expected}` : undefined,
    };
  };
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
        {demoOffered && (
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
      <Box
        component="form"
        noValidate
        onSubmit={submit}
        sx={{ display: "grid", gap: 2, maxWidth: 400 }}
      >
        <Typography variant="h2">{joining ? "Make an account" : "Sign in"}</Typography>
        {joining && <TextField name="name" label="Name" autoComplete="name" {...at("name")} />}
        <TextField name="email" label="Email" type="email" autoComplete="email" {...at("email")} />
        <TextField
          name="password"
          label="Password"
          type="password"
          autoComplete={joining ? "new-password" : "current-password"}
          {...at("password")}
        />
        {enter.error && enter.error.errors.length === 0 && (
          <Remark tone="error" role="alert">
            {enter.error.message}
          </Remark>
        )}
        <Button
          type="submit"
          variant={demoOffered ? "outlined" : "contained"}
          disabled={enter.isPending}
        >
          {joining ? "Make the account" : "Sign in"}
        </Button>
        <Button
          onClick={() => {
            setJoining(!joining);
            enter.reset();
          }}
        >
          {joining ? "I have an account" : "I am new here"}
        </Button>
      </Box>
    </Box>
  );
}
