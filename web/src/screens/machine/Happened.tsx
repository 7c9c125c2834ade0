import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, type ReactNode, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, inFull, type Schemas, told } from "../../api/client";
import { type Machine, useMachineChange } from "../../api/queries";
import { TakeBack } from "../../parts/TakeBack";
import { Remark } from "../../parts/Waiting";

type Kind = Schemas["EventKind"];
type Sent = Omit<Schemas["EventIn"], "at">;

/** Logs that something happened: one press for what happens often, a question only where one is
 * needed. */
export function Happened({ machine, children }: { machine: Machine; children: ReactNode }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [asking, setAsking] = useState<Kind | null>(null);
  const [logged, setLogged] = useState<{ id: string; what: string } | null>(null);
  const log = useMachineChange((body: Sent) =>
    told(
      api.POST("/api/v1/machines/{machine_id}/events", {
        params: { path: { machine_id: machine.id } },
        body: { at: new Date().toISOString(), ...body },
      }),
    ),
  );
  const send = (kind: Kind, what: string, hours: number | null = null) => {
    const id = uuid();
    setLogged(null);
    setAsking(null);
    log.reset();
    log.mutate(
      { id, kind: kind.key, said: "", mechanisms: [], hours },
      { onSuccess: () => setLogged({ id, what }) },
    );
  };
  const pick = (kind: Kind) => {
    setAnchor(null);
    if (!kind.asks && kind.key !== "note") return send(kind, kind.title);
    setLogged(null);
    log.reset();
    setAsking(kind);
  };
  const presses = machine.events.flatMap((kind) => kind.presses.map((press) => ({ kind, press })));
  return (
    <>
      <Button
        variant="outlined"
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        disabled={log.isPending}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        Something happened
      </Button>
      {children}
      <Box
        role="group"
        aria-label="Logged with one press"
        sx={{ flexBasis: "100%", display: "flex", flexWrap: "wrap", gap: 1 }}
      >
        {presses.map(({ kind, press }) => (
          <Button
            key={press.text}
            size="small"
            variant="outlined"
            color="inherit"
            disabled={log.isPending}
            onClick={() => send(kind, press.text, press.hours)}
            sx={(t) => ({ px: 1.5, fontWeight: 400, borderColor: t.palette.rule })}
          >
            {press.text}
          </Button>
        ))}
      </Box>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {machine.events.map((kind) => (
          <MenuItem key={kind.key} onClick={() => pick(kind)} sx={{ minHeight: 56 }}>
            <Box>
              {kind.title}
              <Box sx={{ color: "text.secondary", fontSize: ".85rem", whiteSpace: "normal" }}>
                {kind.hint}
              </Box>
            </Box>
          </MenuItem>
        ))}
      </Menu>
      {asking && (
        <Ask
          key={asking.key}
          kind={asking}
          machine={machine}
          log={log}
          done={(id) => {
            setLogged({ id, what: asking.title });
            setAsking(null);
          }}
          leave={() => setAsking(null)}
        />
      )}
      <Box role="status" sx={{ flexBasis: "100%" }}>
        {logged && (
          <Remark>
            Logged: {logged.what.charAt(0).toLowerCase() + logged.what.slice(1)}.{" "}
            <TakeBack
              key={logged.id}
              type="events"
              id={logged.id}
              taken={false}
              what={logged.what}
              done={() => setLogged(null)}
            />
          </Remark>
        )}
        {log.error && !asking && <Remark tone="error">{log.error.message}</Remark>}
      </Box>
    </>
  );
}

function Ask({
  kind,
  machine,
  log,
  done,
  leave,
}: {
  kind: Kind;
  machine: Machine;
  log: ReturnType<typeof useMachineChange<Sent>>;
  done: (id: string) => void;
  leave: () => void;
}) {
  const [parts, setParts] = useState<Schemas["PartChoice"]["key"][]>([]);
  const problem = (field: string) => log.error?.errors.find((e) => e.field === field);
  const words = (field: string) => {
    const found = problem(field);
    return found && inFull(found);
  };
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const amount = Number(String(data.get("amount") ?? "").replace(",", "."));
    const told = amount > 0 ? amount : null;
    const id = uuid();
    log.mutate(
      {
        id,
        kind: kind.key,
        said: String(data.get("said") ?? ""),
        mechanisms: parts,
        hours: kind.asks === "hours" ? told : null,
        degrees: kind.asks === "angle" ? told : null,
      },
      { onSuccess: () => done(id) },
    );
  };
  return (
    <Box
      component="form"
      noValidate
      onSubmit={submit}
      aria-label={kind.title}
      sx={(t) => ({
        flexBasis: "100%",
        borderLeft: `2px solid ${t.palette.rule}`,
        pl: 2,
        py: 1,
        maxWidth: 640,
      })}
    >
      <Typography variant="h3">{kind.title}</Typography>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>{kind.hint}</Typography>
      {kind.asks === "parts" && (
        <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(180px, 1fr))" }}>
          {machine.parts.map((part) => (
            <FormControlLabel
              key={part.key}
              label={part.title}
              control={
                <Checkbox
                  checked={parts.includes(part.key)}
                  onChange={(e) =>
                    setParts(
                      e.target.checked
                        ? [...parts, part.key]
                        : parts.filter((key) => key !== part.key),
                    )
                  }
                />
              }
            />
          ))}
          {words("mechanisms") && (
            <Remark tone="error" role="alert">
              {words("mechanisms")}
            </Remark>
          )}
        </Box>
      )}
      {kind.asks === "hours" || kind.asks === "angle" ? (
        <TextField
          name="amount"
          id="event-amount"
          label={
            kind.asks === "hours"
              ? "Hours since it was last told"
              : "Tilted by, in degrees, if you know"
          }
          error={problem(kind.asks === "hours" ? "hours" : "degrees") !== undefined}
          helperText={words(kind.asks === "hours" ? "hours" : "degrees")}
          slotProps={{ htmlInput: { inputMode: "decimal" } }}
          sx={{ maxWidth: 300, mt: 1 }}
        />
      ) : (
        <TextField
          name="said"
          id="event-said"
          label="In a few words"
          error={problem("said") !== undefined}
          helperText={words("said")}
          sx={{ mt: 1 }}
        />
      )}
      <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
        <Button type="submit" variant="contained" disabled={log.isPending}>
          Log it
        </Button>
        <Button onClick={leave}>Not after all</Button>
      </Box>
    </Box>
  );
}
