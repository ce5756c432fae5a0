import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Template = Schemas["Template"];
export type Version = Schemas["Version"];
export type VersionDetail = Schemas["VersionDetail"];
export type Variable = Schemas["Variable"];
export type FileInfo = Schemas["FileInfo"];
export type FileText = Schemas["FileText"];
export type Piece = Schemas["Piece"];
export type Preview = Schemas["Preview"];
export type Preset = Schemas["Preset"];
export type MarkedRegion = Schemas["MarkedRegion"];

/** A value, in the JSON type of its kind. */
export type Value = string | number | boolean | (string | number)[];
/** The values of a cast, by variable. */
export type Values = Record<string, Value>;

/** Which version of which template; the version may be a range or "latest". */
export interface Reference {
  team: string;
  name: string;
  version: string;
}

export const api = createClient<paths>({ baseUrl: "/api/v1" });

/** An error as the service tells it (RFC 9457). */
export class ProblemError extends Error {
  readonly status: number;

  constructor(problem: Schemas["ErrorModel"] | undefined, status: number) {
    super(problem?.detail ?? problem?.title ?? "The service does not answer.");
    this.status = problem?.status ?? status;
  }
}

interface Answer<T> {
  data?: T;
  error?: Schemas["ErrorModel"];
  response: Response;
}

/** Returns an answer's data, or throws what went wrong as a ProblemError. */
export async function dataOf<T>(answer: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await answer.catch(() => {
    throw new ProblemError(undefined, 0);
  });
  if (!response.ok) throw new ProblemError(error, response.status);
  return data as T;
}
