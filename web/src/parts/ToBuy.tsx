import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link as RouterLink } from "react-router";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type Schemas, told } from "../api/client";
import { keys } from "../api/queries";
import { Remark } from "./Waiting";

/** Puts what is missing on the list to buy, with why and for what, from where it is missed. */
export function ToBuy({
  workshopId,
  machineId,
  what,
  why,
  sort = "other",
  types = [],
}: {
  workshopId: string;
  machineId: string;
  what: string;
  why: string;
  sort?: Schemas["WantedIn"]["sort"];
  types?: string[];
}) {
  const client = useQueryClient();
  const put = useMutation<Schemas["WantedOut"][], ApiProblem>({
    mutationFn: () =>
      told(
        api.POST("/api/v1/workshops/{workshop_id}/wanted", {
          params: { path: { workshop_id: workshopId } },
          body: {
            id: uuid(),
            what: what.slice(0, 120),
            why: why.slice(0, 400),
            sort,
            types,
            machine_id: machineId,
          },
        }),
      ),
    onSuccess: (list) => client.setQueryData(keys.wanted(workshopId), list),
  });
  return (
    <Box role="status">
      {put.isSuccess ? (
        <Box sx={{ py: 1 }}>
          On the list.{" "}
          <Link component={RouterLink} to={`/w/${workshopId}/kit`}>
            To buy
          </Link>
        </Box>
      ) : (
        <Button size="small" disabled={put.isPending} onClick={() => put.mutate()} sx={{ ml: -1 }}>
          Put it on the list to buy
        </Button>
      )}
      {put.error && (
        <Remark tone="error" role="alert">
          {put.error.errors[0]?.message ?? put.error.message}
        </Remark>
      )}
    </Box>
  );
}
