import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, told } from "../../api/client";
import { SchemaForm } from "../../parts/SchemaForm";
import type { JsonObject, Schema } from "../../parts/schema";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { ProgramReport } from "./ProgramReport";
import { as, type BedState, bedKey, type ProgramState, programKey } from "./queries";

/** Any program, checked against this bed by a worker: file, what is stated, progress, report. */
export function ProgramPane({
  bed,
  program,
  look,
}: {
  bed: BedState;
  program: ProgramState | undefined;
  look: (id: string | null) => void;
}) {
  const { say } = useSettings();
  const client = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const took = (now: ProgramState) => {
    client.setQueryData(programKey(now.id), now);
    void client.invalidateQueries({ queryKey: bedKey(bed.machine_id) });
    look(now.id);
  };
  const send = useMutation<ProgramState, ApiProblem, JsonObject>({
    mutationFn: (stated) => {
      const form = new FormData();
      form.set("id", uuid());
      form.set("stated", JSON.stringify(stated));
      form.set("program", file ?? new Blob([]), file?.name ?? "program.nc");
      return as<ProgramState>(
        told(
          api.POST("/api/v1/machines/{machine_id}/programs", {
            params: { path: { machine_id: bed.machine_id } },
            // the generated type tells fields; what goes out is the form itself
            body: form as never,
            bodySerializer: (body: unknown) => body as FormData,
          }),
        ),
      );
    },
    onSuccess: (now) => {
      setFile(null);
      took(now);
    },
  });
  const act = useMutation<ProgramState, ApiProblem, "stop" | "again">({
    mutationFn: (what) => {
      const path = { program_id: program?.id ?? "" };
      return what === "stop"
        ? as<ProgramState>(
            told(api.POST("/api/v1/programs/{program_id}/stop", { params: { path } })),
          )
        : as<ProgramState>(
            told(api.POST("/api/v1/programs/{program_id}/again", { params: { path } })),
          );
    },
    onSuccess: took,
  });
  const [removing, setRemoving] = useState(false);
  const remove = useMutation<unknown, ApiProblem>({
    mutationFn: () =>
      told(
        api.DELETE("/api/v1/programs/{program_id}", {
          params: { path: { program_id: program?.id ?? "" } },
        }),
      ),
    onSuccess: async () => {
      setRemoving(false);
      look(null);
      await client.invalidateQueries({ queryKey: bedKey(bed.machine_id) });
    },
  });
  if (program) {
    const under = program.state === "waiting" || program.state === "running";
    return (
      <Box>
        <Box sx={{ display: "flex", gap: 1, alignItems: "baseline", flexWrap: "wrap" }}>
          <Typography
            variant="h3"
            component="h2"
            sx={{ flex: 1, minWidth: 0, overflowWrap: "anywhere" }}
          >
            {program.name}
          </Typography>
          <Button
            onClick={() => {
              setRemoving(false);
              look(null);
            }}
          >
            Another program
          </Button>
        </Box>
        <Box role="status">
          {under && (
            <Box sx={{ my: 2 }}>
              <Typography>{program.reason}</Typography>
              <LinearProgress
                variant={program.state === "waiting" ? "indeterminate" : "determinate"}
                value={100 * program.share}
                aria-label="How much of the check is done"
                sx={{ my: 1, height: 8 }}
              />
              {bed.may_change && (
                <Button variant="outlined" onClick={() => act.mutate("stop")}>
                  Stop the check
                </Button>
              )}
            </Box>
          )}
          {(program.state === "failed" || program.state === "stopped") && (
            <Remark tone={program.state === "failed" ? "error" : "look"}>{program.reason}</Remark>
          )}
        </Box>
        {program.report && <ProgramReport program={program} report={program.report} />}
        {!under && bed.may_change && (
          <Box sx={{ mt: 2, display: "flex", gap: 1, flexWrap: "wrap" }}>
            {removing ? (
              <>
                <Box sx={{ alignSelf: "center" }}>
                  The file and its report go from here for good. Yours stays where it is.
                </Box>
                <Button
                  variant="outlined"
                  disabled={remove.isPending}
                  onClick={() => remove.mutate()}
                >
                  Remove it for good
                </Button>
                <Button onClick={() => setRemoving(false)}>Keep it</Button>
              </>
            ) : (
              <>
                <Button variant="outlined" onClick={() => act.mutate("again")}>
                  Check it again
                </Button>
                <Button onClick={() => setRemoving(true)}>Remove it</Button>
              </>
            )}
          </Box>
        )}
        {remove.error && (
          <Remark tone="error" role="alert">
            {remove.error.message}
          </Remark>
        )}
      </Box>
    );
  }
  return (
    <Box>
      <Typography sx={{ mb: 1 }}>
        Any program of RS-274 code. It is read whole and run over this bed on paper: nothing is sent
        to a machine.
      </Typography>
      {bed.programs.map((p) => (
        <Box key={p.id} sx={{ mb: 0.5 }}>
          <Link component="button" type="button" onClick={() => look(p.id)}>
            {p.name}
          </Link>{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>
            {say(p.sentence)}
          </Box>
        </Box>
      ))}
      {bed.may_change && (
        <SchemaForm
          schema={bed.stated_schema as Schema}
          values={bed.stated as JsonObject}
          shown={bed.stated_shown}
          prefix="stated."
          problem={send.error}
          busy={send.isPending || !file}
          submit={send.isPending ? "Sending…" : "Check it"}
          onSubmit={(stated) => send.mutate(stated)}
          before={
            <Box sx={{ my: 2 }}>
              <Button variant="outlined" component="label">
                {file ? file.name : "Choose the program"}
                <Box
                  component="input"
                  type="file"
                  aria-label="Choose the program"
                  onChange={(e) => setFile((e.target as HTMLInputElement).files?.[0] ?? null)}
                  sx={{ position: "absolute", width: 1, height: 1, opacity: 0 }}
                />
              </Button>
            </Box>
          }
        />
      )}
    </Box>
  );
}
