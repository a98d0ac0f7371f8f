import createClient from "openapi-fetch";
import { saidText } from "../ui/text";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type ClauseKind = Schemas["ClauseKind"];
export type ValueSpec = Schemas["ValueSpec"];
export type Segment = Schemas["Segment"];
export type Statement = Schemas["Statement"];
export type ClauseEntry = Schemas["ClauseEntry"];
export type Dimension = Schemas["Dimension"];
export type StatementMessage = Schemas["StatementMessage"];
export type Outcome = Omit<Schemas["OutcomeMessage"], "figures"> & { figures: Figure[] };
/** A figure; `pending` where it is that of before, and a newer one is still being worked out. */
export type Figure = Schemas["FigureMessage"] & { pending?: boolean };
export type Notice = Schemas["NoticeMessage"];
export type Remedy = Schemas["RemedyMessage"];
export type ProjectCard = Schemas["ProjectCard"];
export type TableMessage = Schemas["TableMessage"];
export type Section = Schemas["SectionMessage"];
export type PackMessage = Schemas["PackMessage"];
export type PackRequest = Schemas["PackRequest"];
/** What the server says on the live channel, and what is asked there. */
export type Said = Schemas["Said"];
export type Asked = Schemas["Asked"];
export type Edit = Schemas["EditRequest"]["edit"];

export const api = createClient<paths>({ baseUrl: "/" });

/** The sentence of a problem body, with its lengths as the project has them, or a general one. */
export function sentence(problem: unknown): string {
  if (problem && typeof problem === "object" && "detail" in problem) {
    const { detail, lengths = [] } = problem as Schemas["Problem"];
    return saidText(String(detail), lengths);
  }
  return "The server could not be reached. Is it still running?";
}

/** The data of an answer; throws an error with the server's sentence. */
export async function answered<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await call.catch(() => {
    throw new Error("This was not done, as the server is not answering. Try again when it does.");
  });
  if (error !== undefined) throw new Error(sentence(error));
  return data as T;
}
