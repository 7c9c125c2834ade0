import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link as RouterLink, useNavigate } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, type Me } from "../../api/queries";
import { Remark } from "../../parts/Waiting";

interface Props {
  me: Me;
  /** Nobody is signed in any more. */
  left: (nobody: Me) => void;
}

export default function Account({ me, left }: Props) {
  return (
    <Box sx={{ maxWidth: 560, mx: "auto", px: 2, py: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        {me.name}
      </Typography>
      <Workshops me={me} />
      {!me.workshops?.some((w) => w.is_demo) && <Name me={me} />}
      <Password />
      <Farewell me={me} left={left} />
    </Box>
  );
}

/** Take the account away, told beforehand what goes with it. */
function Farewell({ me, left }: Props) {
  const go = useNavigate();
  const [asking, setAsking] = useState(false);
  const remove = useMutation<Me, ApiProblem, string>({
    mutationFn: (password) => told(api.POST("/api/v1/auth/remove", { body: { password } })),
    onSuccess: (nobody) => {
      go("/");
      left(nobody);
    },
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    remove.mutate(String(new FormData(event.currentTarget).get("farewell") ?? ""));
  };
  const wrong = remove.error?.errors[0];
  if (me.workshops?.some((w) => w.is_demo)) return null;
  return (
    <Box component="section" sx={{ mt: 5 }}>
      <Typography variant="h2">Remove the account</Typography>
      <Typography sx={{ mb: 1 }}>
        Workshops that nobody else belongs to go with it, with all their readings; what you read in
        others’ stays there without your name. This cannot be undone.
      </Typography>
      {asking ? (
        <Box component="form" noValidate onSubmit={submit} sx={{ display: "grid", gap: 2 }}>
          <TextField
            name="farewell"
            id="farewell"
            label="Your password, to remove the account"
            type="password"
            autoComplete="current-password"
            autoFocus
            error={wrong !== undefined}
            helperText={wrong?.message}
          />
          {remove.error && !wrong && <Remark tone="error">{remove.error.message}</Remark>}
          <Box sx={{ display: "flex", gap: 1 }}>
            <Button type="submit" variant="outlined" disabled={remove.isPending}>
              Remove it for good
            </Button>
            <Button onClick={() => setAsking(false)}>Keep it</Button>
          </Box>
        </Box>
      ) : (
        <Button onClick={() => setAsking(true)}>Remove it</Button>
      )}
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
            {w.role === "owner" && <Rename workshop={w} />}
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
        <Button
          type="submit"
          variant="outlined"
          disabled={make.isPending}
          sx={{ flexShrink: 0, minHeight: 56 }}
        >
          Make it
        </Button>
      </Box>
    </Box>
  );
}

/** Another name for a workshop, asked for where its name stands. */
function Rename({ workshop }: { workshop: NonNullable<Me["workshops"]>[number] }) {
  const client = useQueryClient();
  const [was, setWas] = useState<string | null>(null);
  const rename = useMutation<unknown, ApiProblem, string>({
    mutationFn: (name) =>
      told(
        api.PUT("/api/v1/workshops/{workshop_id}", {
          params: { path: { workshop_id: workshop.id } },
          body: { name, was: was ?? workshop.name },
        }),
      ),
    onSuccess: () => {
      setWas(null);
      void client.invalidateQueries({ queryKey: keys.workshop(workshop.id) });
      return client.invalidateQueries({ queryKey: keys.me });
    },
  });
  if (was === null)
    return (
      <Button
        size="small"
        onClick={() => setWas(workshop.name)}
        aria-label={`Rename ${workshop.name}`}
      >
        Rename
      </Button>
    );
  return (
    <Box
      component="form"
      noValidate
      onSubmit={(event: FormEvent<HTMLFormElement>) => {
        event.preventDefault();
        rename.mutate(String(new FormData(event.currentTarget).get("renamed") ?? ""));
      }}
      sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "flex-start", my: 1 }}
    >
      <TextField
        name="renamed"
        id={`renamed-${workshop.id}`}
        label="Its name"
        defaultValue={was}
        autoFocus
        error={rename.isError}
        helperText={rename.error?.message}
      />
      <Button
        type="submit"
        variant="outlined"
        disabled={rename.isPending}
        sx={{ flexShrink: 0, minHeight: 56 }}
      >
        Rename it
      </Button>
      <Button onClick={() => setWas(null)} sx={{ minHeight: 56 }}>
        Cancel
      </Button>
    </Box>
  );
}

/** What others call this person. */
function Name({ me }: { me: Me }) {
  const client = useQueryClient();
  const rename = useMutation<Me, ApiProblem, string>({
    mutationFn: (name) => told(api.POST("/api/v1/auth/name", { body: { name } })),
    onSuccess: (now) => client.setQueryData(keys.me, now),
  });
  return (
    <Box
      component="form"
      noValidate
      onSubmit={(event: FormEvent<HTMLFormElement>) => {
        event.preventDefault();
        rename.mutate(String(new FormData(event.currentTarget).get("own-name") ?? ""));
      }}
      sx={{ display: "grid", gap: 2, mb: 4 }}
    >
      <Typography variant="h2">Name</Typography>
      <TextField
        name="own-name"
        id="own-name"
        label="What others call you"
        defaultValue={me.name}
        autoComplete="name"
        error={rename.isError}
        helperText={rename.error?.message}
      />
      <Button
        type="submit"
        variant="outlined"
        disabled={rename.isPending}
        sx={{ justifySelf: "start" }}
      >
        Change the name
      </Button>
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
