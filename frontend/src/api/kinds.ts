import { useQuery } from "@tanstack/react-query";
import { answered, api, type ClauseKind } from "./client";

const NONE: ClauseKind[] = [];

/** All clause types; they do not change while the page is open. */
export function useClauseKinds(): ClauseKind[] {
  const { data } = useQuery({
    queryKey: ["clause-kinds"],
    queryFn: async () => (await answered(api.GET("/api/clause-kinds"))) as unknown as ClauseKind[],
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data ?? NONE;
}
