import { apiAddress } from "../base";
import { EventSourceParserStream } from "eventsource-parser/stream";
import { Refusal, refused, unreachable, type Problem } from "./client";
import { fetchInTurn } from "./turns";
import type { paths } from "./schema.generated";

type Operations = {
  [P in keyof paths as P extends `/analyses/${infer Name}` ? Name : never]: paths[P] extends { post: infer O }
    ? O
    : never;
};
export type AnalysisName = keyof Operations;
type Body<O> = O extends { requestBody: { content: { "application/json": infer Q } } } ? Q : never;
type Given<O> = O extends { responses: { 200: { content: { "application/json": infer A } } } } ? A : never;
/** What an analysis may be asked, and what it answers. */
export type Question<N extends AnalysisName> = Body<Operations[N]>;
export type Answer<N extends AnalysisName> = Given<Operations[N]>;
/** Characters of a question in an address. */
const LONGEST = 4_000;
/** How far an answer is: so many parts of all, and what is being done. */
export type Progress = { done: number; all: number; what: string };

/**
 * Puts a question to an analysis. While the answer is computed it is told how far it is; giving up the signal stops the
 * work on the server, too.
 */
export async function ask<N extends AnalysisName>(
  name: N,
  question: Question<N>,
  signal?: AbortSignal,
  tell: (progress: Progress) => void = () => {},
): Promise<Answer<N>> {
  const request = requestFor(apiAddress(`/analyses/${name}`), JSON.stringify(question), signal);
  try {
    const response = await fetchInTurn(request);
    if (!response.headers.get("content-type")?.startsWith("text/event-stream")) {
      const told: unknown = await response.json();
      if (response.ok) return told as Answer<N>;
      throw refused(told as Problem);
    }
    return await read(response, tell);
  } catch (error) {
    if (error instanceof Refusal || (error instanceof DOMException && error.name === "AbortError"))
      throw error;
    throw refused(unreachable);
  }
}

/** A question that an address can hold goes there, so that the browser keeps the answer until it changes. */
function requestFor(address: string, question: string, signal?: AbortSignal): Request {
  const accept = "text/event-stream, application/json";
  const more = signal ? { signal } : {};
  const query = new URLSearchParams({ question }).toString();
  if (query.length <= LONGEST) return new Request(`${address}?${query}`, { headers: { accept }, ...more });
  const headers = { "content-type": "application/json", accept };
  return new Request(address, { method: "POST", headers, body: question, ...more });
}

async function read<N extends AnalysisName>(
  response: Response,
  tell: (progress: Progress) => void,
): Promise<Answer<N>> {
  const events = response
    .body!.pipeThrough(new TextDecoderStream() as ReadableWritablePair<string, Uint8Array<ArrayBuffer>>)
    .pipeThrough(new EventSourceParserStream())
    .getReader();
  for (;;) {
    const { value, done } = await events.read();
    if (done) throw refused(unreachable);
    const data: unknown = JSON.parse(value.data);
    if (value.event === "answer") return data as Answer<N>;
    if (value.event === "problem") throw refused(data as Problem);
    tell(data as Progress);
  }
}
