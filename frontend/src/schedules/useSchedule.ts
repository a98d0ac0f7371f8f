import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answered, api, type TableMessage } from "../api/client";
import { useLive } from "../state/opened";

/** A schedule of the statement as it stands; kept on screen while a newer one is made. */
export function useSchedule(name: string): {
  tables: TableMessage[] | undefined;
  loading: boolean;
  error: Error | null;
} {
  const project = useLive((s) => s.project);
  const results = useLive((s) =>
    Object.values(s.outcomes)
      .map((o) => o.key)
      .join(),
  );
  const settled = useLive((s) => !s.busy);
  const { data, isFetching, error } = useQuery({
    queryKey: ["schedule", project, name, results],
    queryFn: () =>
      answered(api.GET("/api/projects/{project}/schedules/{name}", { params: { path: { project, name } } })),
    enabled: Boolean(project) && settled,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  });
  return { tables: data, loading: isFetching, error };
}
