import createClient from "openapi-fetch";
import { apiAddress } from "../base";
import { fetchInTurn } from "./turns";
import type { components, paths } from "./schema.generated";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

export const api = createClient<paths>({ baseUrl: apiAddress(""), fetch: fetchInTurn });

/** A refusal of the server, or the lack of one. */
export class Refusal extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

type Listener = (problem: Problem) => void;
const listeners: Listener[] = [];

/** Reports every refusal, whoever asked. */
export function onRefusal(listener: Listener): void {
  listeners.push(listener);
}

export const unreachable: Problem = {
  type: "about:blank",
  title: "No answer",
  status: 0,
  detail: "The server is not responding. Check that it is running.",
  errors: [],
};

/** The refusal to throw, after all who listen have been told. */
export function refused(problem: Problem): Refusal {
  if (problem !== unreachable) listeners.forEach((listener) => listener(problem));
  return new Refusal(problem);
}

/** The data of a call, or a {@link Refusal}. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let result;
  try {
    result = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Refusal(unreachable);
  }
  if (result.data !== undefined) return result.data;
  const problem = result.error as Problem | undefined;
  throw refused(problem?.detail ? problem : unreachable);
}

/** What to tell the user about something that went wrong. */
export function problemOf(error: unknown): Problem {
  return error instanceof Refusal ? error.problem : { ...unreachable, title: "Error", detail: String(error) };
}
