import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { useStanding } from "../../api/queries";
import type { JsonObject } from "../../parts/schema";

export type BedState = Schemas["BedOut"];
export type PlanState = Schemas["SurfacingOut"];
export type ProgramState = Schemas["ProgramOut"];

const PAUSE_MS = 350;
const LOOK_MS = 700;

/** The generated client makes lists of pairs; the schema says that they are pairs. */
export const as = <T>(answer: Promise<unknown>): Promise<T> => answer as Promise<T>;

export const bedKey = (id: string) => ["bed", id] as const;
export const programKey = (id: string) => ["program", id] as const;

export const useBed = (machine_id: string) =>
  useStanding<BedState>({
    queryKey: bedKey(machine_id),
    queryFn: () =>
      as(told(api.GET("/api/v1/machines/{machine_id}/bed", { params: { path: { machine_id } } }))),
  });

/** What a wish comes to, a moment after the last key; the last plan stays until there is another. */
export function usePlan(machineId: string, wish: JsonObject) {
  const [settled, setSettled] = useState(wish);
  const key = JSON.stringify(wish);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(JSON.parse(key)), PAUSE_MS);
    return () => window.clearTimeout(timer);
  }, [key]);
  return useQuery<PlanState, ApiProblem>({
    queryKey: ["plan", machineId, settled],
    queryFn: () =>
      as<PlanState>(
        told(
          api.POST("/api/v1/machines/{machine_id}/surfacing-preview", {
            params: { path: { machine_id: machineId } },
            body: { wish: settled },
          }),
        ),
      ),
    retry: false,
    gcTime: 20_000,
    placeholderData: (before) => before,
  });
}

/** Something that changes the bed, and brings it back as it is then. */
export function useBedChange<T>(machineId: string, change: (value: T) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation<BedState, ApiProblem, T>({
    mutationFn: (value) => as<BedState>(change(value)),
    onSuccess: (bed) => {
      client.setQueryData(bedKey(machineId), bed);
      for (const key of ["machine", "logbook", "workshop", "plan"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
}

/** A program while and after it is checked: asked for again as long as a worker is at it. */
export const useProgram = (program_id: string | null) =>
  useQuery<ProgramState, ApiProblem>({
    queryKey: programKey(program_id ?? ""),
    queryFn: () =>
      as<ProgramState>(
        told(
          api.GET("/api/v1/programs/{program_id}", {
            params: { path: { program_id: program_id ?? "" } },
          }),
        ),
      ),
    enabled: program_id !== null,
    refetchInterval: (query) =>
      ["waiting", "running"].includes(query.state.data?.state ?? "") ? LOOK_MS : false,
  });
