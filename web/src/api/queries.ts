import {
  notifyManager,
  type QueryClient,
  type UseQueryOptions,
  type UseQueryResult,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { type ApiProblem, api, type CheckState, type Schemas, told } from "./client";
import { type News, withNews } from "./news";

export const keys = {
  me: ["me"] as const,
  workshop: (id: string) => ["workshop", id] as const,
  machine: (id: string) => ["machine", id] as const,
  check: (id: string) => ["check", id] as const,
  finding: (roundId: string) => ["finding", roundId] as const,
  kit: (id: string) => ["kit", id] as const,
  wanted: (id: string) => ["wanted", id] as const,
  members: (id: string) => ["members", id] as const,
  invitations: (id: string) => ["invitations", id] as const,
  kinds: ["kinds"] as const,
  forms: ["forms"] as const,
  course: ["course"] as const,
  evening: (id: string) => ["evening", id] as const,
  calendar: (id: string) => ["calendar", id] as const,
};

/**
 * A query whose answer stays on the screen while the server cannot be reached, or the session has
 * ended: what is being typed there must not go with it.
 */
export function useStanding<T>(
  options: UseQueryOptions<T, ApiProblem>,
): UseQueryResult<T, ApiProblem> {
  const query = useQuery<T, ApiProblem>(options);
  const { data, error } = query;
  if (data === undefined || !error || !(error.temporary || error.status === 401)) return query;
  const shown = { ...query, data, error: null, isError: false, status: "success" };
  return shown as unknown as UseQueryResult<T, ApiProblem>;
}

export const useMe = () =>
  useStanding({ queryKey: keys.me, queryFn: () => told(api.GET("/api/v1/auth/me")) });

export const useWorkshop = (workshop_id: string) =>
  useStanding({
    queryKey: keys.workshop(workshop_id),
    queryFn: () =>
      told(api.GET("/api/v1/workshops/{workshop_id}", { params: { path: { workshop_id } } })),
    enabled: workshop_id !== "",
  });

export const useMachine = (machine_id: string) =>
  useStanding({
    queryKey: keys.machine(machine_id),
    queryFn: () =>
      told(api.GET("/api/v1/machines/{machine_id}", { params: { path: { machine_id } } })),
  });

/** How a kind of check is set up on a machine, drawn; asked for when somebody looks. */
const sketchesOf = (machine_id: string, kind: string) => ({
  queryKey: [...keys.machine(machine_id), "sketches", kind],
  queryFn: () =>
    told(
      api.GET("/api/v1/machines/{machine_id}/sketches/{kind}", {
        params: { path: { machine_id, kind } },
      }),
    ),
});

export const useSketches = (machine_id: string, kind: string, enabled: boolean) =>
  useQuery({ ...sketchesOf(machine_id, kind), enabled });

/** Whether the sketches of these kinds are still to come: what stands below them would jump. */
export const useSketchesPending = (machine_id: string, kinds: string[]) =>
  useQueries({ queries: kinds.map((kind) => sketchesOf(machine_id, kind)) }).some(
    // without a connection nothing is on its way, and what is known is shown
    (q) => q.isLoading,
  );

export const useCheck = (check_id: string) =>
  useStanding({
    queryKey: keys.check(check_id),
    queryFn: () => told(api.GET("/api/v1/checks/{check_id}", { params: { path: { check_id } } })),
  });

/** What is to be bought. */
export const useWanted = (workshop_id: string) =>
  useStanding({
    queryKey: keys.wanted(workshop_id),
    queryFn: () =>
      told(
        api.GET("/api/v1/workshops/{workshop_id}/wanted", { params: { path: { workshop_id } } }),
      ),
  });

export const useKit = (workshop_id: string) =>
  useStanding({
    queryKey: keys.kit(workshop_id),
    queryFn: () =>
      told(api.GET("/api/v1/workshops/{workshop_id}/kit", { params: { path: { workshop_id } } })),
    enabled: workshop_id !== "",
  });

export const usePieceRecord = (piece_id: string, enabled: boolean) =>
  useStanding({
    queryKey: ["piece", piece_id, "record"],
    queryFn: () =>
      told(api.GET("/api/v1/pieces/{piece_id}/record", { params: { path: { piece_id } } })),
    enabled,
  });

export const useInvitations = (workshop_id: string) =>
  useStanding({
    queryKey: keys.invitations(workshop_id),
    queryFn: () =>
      told(
        api.GET("/api/v1/workshops/{workshop_id}/invitations", {
          params: { path: { workshop_id } },
        }),
      ),
  });

export const useMembers = (workshop_id: string) =>
  useStanding({
    queryKey: keys.members(workshop_id),
    queryFn: () =>
      told(
        api.GET("/api/v1/workshops/{workshop_id}/members", { params: { path: { workshop_id } } }),
      ),
  });

export const useKinds = () =>
  useStanding({
    queryKey: keys.kinds,
    queryFn: () => told(api.GET("/api/v1/kinds")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useMachineForms = () =>
  useStanding({
    queryKey: keys.forms,
    queryFn: () => told(api.GET("/api/v1/machine-forms")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useUsualKit = (system: "metric" | "inch") =>
  useStanding({
    queryKey: ["usual-kit", system],
    queryFn: () => told(api.GET("/api/v1/usual-kit", { params: { query: { system } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useCourse = () =>
  useStanding({
    queryKey: keys.course,
    queryFn: () => told(api.GET("/api/v1/course")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useEvening = (evening_id: string | null) =>
  useStanding({
    queryKey: keys.evening(evening_id ?? ""),
    queryFn: () =>
      told(
        api.GET("/api/v1/evenings/{evening_id}", {
          params: { path: { evening_id: evening_id ?? "" } },
        }),
      ),
    enabled: evening_id !== null,
    // the time that is left runs down by itself
    refetchInterval: 30_000,
  });

export const useCalendar = (workshop_id: string) =>
  useStanding({
    queryKey: keys.calendar(workshop_id),
    queryFn: () =>
      told(
        api.GET("/api/v1/workshops/{workshop_id}/calendar", { params: { path: { workshop_id } } }),
      ),
  });

const LEANS_ON_THE_RECORD = [
  ...["workshop", "machine", "logbook", "evening", "calendar"],
  ...["jobs", "job", "job-limits"],
];

/** A call that logs something about a machine and answers with its new state. */
export function useMachineChange<V>(call: (v: V) => Promise<Machine>) {
  const client = useQueryClient();
  return useMutation<Machine, ApiProblem, V>({
    mutationFn: call,
    onSuccess: (machine) => {
      for (const key of [...LEANS_ON_THE_RECORD, "check", "finding"])
        void client.invalidateQueries({ queryKey: [key] });
      put<Machine>(client, keys.machine(machine.id), () => machine);
    },
  });
}

/**
 * Put what the server has just said where a screen reads it. An answer that is still under way was
 * given before that, and must not come after it.
 */
function put<T>(
  client: QueryClient,
  key: readonly unknown[],
  now: (old: T | undefined) => T | undefined,
) {
  const cancelled = client.cancelQueries({ queryKey: key });
  if (now(client.getQueryData<T>(key)) === undefined)
    void cancelled.then(() => client.invalidateQueries({ queryKey: key }));
  else client.setQueryData<T>(key, now);
}

/** Put a check's new state where its screen reads it, and let what leans on it be fetched anew. */
export function keepCheck(client: QueryClient, check: CheckState): void {
  put<CheckState>(client, keys.check(check.id), () => check);
  for (const key of [...LEANS_ON_THE_RECORD, "finding"])
    void client.invalidateQueries({ queryKey: [key] });
}

/** Put what a reading changed where its screen reads it; done when the screen has been told. */
export function keepNews(client: QueryClient, news: News): Promise<void> {
  const check = keys.check(news.check_id);
  const round = client.getQueryData<CheckState>(check)?.rounds.find((r) => r.id === news.round_id);
  put<CheckState>(client, check, (old) => old && withNews(old, news));
  void client.invalidateQueries({ queryKey: keys.finding(news.round_id) });
  // half a round leaves the machine as it stands, and the next reading need not wait for all of it;
  // it is fetched anew once it is looked at
  const judges = !round || round.brief.verdict || news.brief.verdict;
  for (const key of LEANS_ON_THE_RECORD)
    void client.invalidateQueries({
      queryKey: [key],
      refetchType: key === "machine" && !judges ? "none" : "active",
    });
  // screens are told a moment later, in turn: what is queued here comes after them
  return new Promise((resolve) => notifyManager.schedule(resolve));
}

/** A round's finding, with figures and advice: asked for when somebody looks at it. */
export const useFinding = (round_id: string) =>
  useStanding<Finding>({
    queryKey: keys.finding(round_id),
    queryFn: () =>
      told(api.GET("/api/v1/rounds/{round_id}/finding", { params: { path: { round_id } } })),
    staleTime: 0,
  });

/** A call that answers with a check's new state. */
export function useCheckChange<V>(call: (v: V) => Promise<CheckState>) {
  const client = useQueryClient();
  return useMutation<CheckState, ApiProblem, V>({
    mutationFn: call,
    onSuccess: (check) => keepCheck(client, check),
  });
}

export type Me = Schemas["Me"];
export type Machine = Schemas["MachineOut"];
export type Kind = Schemas["KindOut"];
export type Finding = Schemas["FindingOut"];
