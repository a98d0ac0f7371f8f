/** The cutting table: its state, asked for again and again while it runs, and what it can be told. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type Schemas } from "../api/client";

export type TableState = Schemas["TableState"];
export type TableMove = Omit<Schemas["TableMove"], "way"> & { way: [number, number][] };
export type TableJob = Schemas["TableJob"];
type Command = Schemas["TableCommand"];

const RUNNING_MS = 250;
const RESTING_MS = 4000;

export function useTable() {
  return useQuery({
    queryKey: ["table"],
    queryFn: () => answered(api.GET("/api/table")),
    refetchInterval: (q) => (q.state.data?.state === "running" ? RUNNING_MS : RESTING_MS),
  });
}

export function useCommand() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (command: Command) => answered(api.POST("/api/table", { body: command })),
    onSuccess: (state) => client.setQueryData(["table"], state),
  });
}

/** What was sent of which sheets: a sheet may have changed since, and its way is no longer that of what is shown. */
const sent = new Map<number, string>();
export const sentAs = (job: number) => sent.get(job);

export function useCut(project: string, keyOf: (number: number) => string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (number: number) =>
      answered(
        api.POST("/api/projects/{project}/sheets/{number}/cut", { params: { path: { project, number } } }),
      ),
    onSuccess: (answer, number) => {
      if (answer.job) sent.set(answer.job.number, keyOf(number));
      return client.invalidateQueries({ queryKey: ["table"] });
    },
  });
}

export function useMoves(job: number | null) {
  return useQuery({
    queryKey: ["table", "job", job],
    queryFn: () =>
      answered(api.GET("/api/table/jobs/{number}", { params: { path: { number: job! } } })) as Promise<
        TableMove[]
      >,
    enabled: job !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
}
