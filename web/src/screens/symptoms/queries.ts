import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, told } from "../../api/client";
import { keys, useStanding } from "../../api/queries";

export type Search = Schemas["SearchOut"];
export type Symptom = Schemas["SymptomOut"];

/** What brings people to a machine. */
export const useSymptoms = () =>
  useQuery({ queryKey: ["symptoms"], queryFn: () => told(api.GET("/api/v1/symptoms")) });

/** What one can come with to this machine. */
export const useSymptomsOf = (machine_id: string) =>
  useQuery({
    queryKey: [...keys.machine(machine_id), "symptoms"],
    queryFn: () =>
      told(api.GET("/api/v1/machines/{machine_id}/symptoms", { params: { path: { machine_id } } })),
  });

/** How far the search has come; `said` is what was seen, as sign:answer. */
export const useSearch = (machine_id: string, symptom: string, said: string[]) =>
  useStanding({
    queryKey: [...keys.machine(machine_id), "search", symptom, said],
    queryFn: () =>
      told(
        api.GET("/api/v1/machines/{machine_id}/symptoms/{symptom}", {
          params: { path: { machine_id, symptom }, query: { said } },
        }),
      ),
    // a check that was settled a moment ago counts
    staleTime: 0,
    placeholderData: (before) => before,
  });
