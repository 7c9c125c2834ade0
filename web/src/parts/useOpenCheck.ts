import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type CheckState, told } from "../api/client";
import { keepCheck } from "../api/queries";

/** Begin a check on a machine, or go on with the one under way, and go there. */
export function useOpenCheck(machineId: string) {
  const client = useQueryClient();
  const go = useNavigate();
  return useMutation<CheckState, ApiProblem, { kind: string; subject?: string }>({
    mutationFn: ({ kind, subject = "" }) =>
      told(
        api.POST("/api/v1/machines/{machine_id}/checks", {
          params: { path: { machine_id: machineId } },
          body: { id: uuid(), kind, subject },
        }),
      ),
    onSuccess: (check) => {
      keepCheck(client, check);
      go(`/checks/${check.id}`);
    },
  });
}
