import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { useStanding } from "../../api/queries";
import type { JsonObject } from "../../parts/schema";

export type Jobs = Schemas["JobsOut"];
export type Job = Schemas["JobOut"];
export type Fit = Schemas["JobFitOut"];
export type Limits = Schemas["JobLimitsOut"];
export type Making = Schemas["MakingOut"];
export type Weight = Schemas["WeightIn"];

const PAUSE_MS = 350;

export const jobsKey = (workshop: string) => ["jobs", workshop] as const;

export const useJobs = (workshop_id: string) =>
  useStanding<Jobs>({
    queryKey: jobsKey(workshop_id),
    queryFn: () =>
      told(api.GET("/api/v1/workshops/{workshop_id}/jobs", { params: { path: { workshop_id } } })),
    staleTime: 0,
  });

export const useJobForms = () =>
  useStanding({
    queryKey: ["job-forms"],
    queryFn: () => told(api.GET("/api/v1/job-forms")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useJob = (job_id: string, machine: string | null) =>
  useQuery<Job, ApiProblem>({
    queryKey: ["job", job_id, machine],
    queryFn: () =>
      told(api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id }, query: { machine } } })),
    staleTime: 0,
    // another machine's figures stay until this one's are there
    placeholderData: (before) => before,
  });

/** A job while it is typed, a moment after the last key. */
export function usePreview(workshop_id: string, spec: JsonObject, machines: string[]) {
  const [settled, setSettled] = useState(spec);
  const key = JSON.stringify(spec);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(JSON.parse(key)), PAUSE_MS);
    return () => window.clearTimeout(timer);
  }, [key]);
  return useQuery<Fit | null, ApiProblem>({
    queryKey: ["job-preview", workshop_id, settled, machines],
    queryFn: () =>
      told(
        api.POST("/api/v1/workshops/{workshop_id}/jobs/preview", {
          params: { path: { workshop_id } },
          body: { spec: settled, machines },
        }),
      ),
    enabled: settled.features?.length > 0,
    retry: false,
    gcTime: 20_000,
    placeholderData: (before) => before,
  });
}

/** Whatever says how a job stands is asked for again. */
export function useJobChange<V, T>(call: (value: V) => Promise<T>) {
  const client = useQueryClient();
  return useMutation<T, ApiProblem, V>({
    mutationFn: call,
    onSuccess: () => {
      for (const key of ["jobs", "job", "job-limits", "workshop", "machine", "check", "plan"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
}
