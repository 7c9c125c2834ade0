import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, useKit, useUsualKit } from "../../api/queries";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";

/** What usually lies on a bench to measure with: pressed, it is in the kit with its usual figures;
 * pressed again, it is put away. */
export function Usual({
  workshopId,
  types,
}: {
  workshopId: string;
  /** Only those that will do here. */
  types?: readonly string[];
}) {
  const { system, say } = useSettings();
  const usual = useUsualKit(system);
  const kit = useKit(workshopId);
  const client = useQueryClient();
  const here = (name: string) => kit.data?.instruments.find((i) => i.name === name);
  const press = useMutation<unknown, ApiProblem, Schemas["Usual"]>({
    mutationFn: ({ name, spec }) => {
      const mine = here(name);
      return mine
        ? told(
            api.PUT("/api/v1/instruments/{instrument_id}/archived", {
              params: { path: { instrument_id: mine.id } },
              body: { archived: !mine.archived },
            }),
          )
        : told(
            api.POST("/api/v1/workshops/{workshop_id}/instruments", {
              params: { path: { workshop_id: workshopId } },
              body: { name, spec: { ...spec } },
            }),
          );
    },
    onSettled: () => client.invalidateQueries({ queryKey: keys.kit(workshopId) }),
  });
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {usual.data
          ?.filter((one) => !types || types.includes(one.spec.type))
          .map((one) => {
            const mine = here(one.name);
            const on = mine !== undefined && !mine.archived;
            return (
              <Button
                key={one.name}
                variant={on ? "contained" : "outlined"}
                aria-pressed={on}
                disabled={kit.isPending || press.isPending}
                onClick={() => press.mutate(one)}
                sx={{ textAlign: "left" }}
              >
                {one.name}
                <Box component="span" sx={{ ml: 1, fontWeight: 400 }}>
                  reads {say(one.reads)}
                </Box>
              </Button>
            );
          })}
      </Box>
      {press.error && (
        <Remark tone="error" role="alert">
          {press.error.message}
        </Remark>
      )}
    </>
  );
}
