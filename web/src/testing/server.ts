import type { Problem, Schemas } from "../lib/api/client";
export { ruleSet } from "./examples";
import { checkAnswer, checkQuestion } from "./contract";

/**
 * Stands in for the server: answers by method and path, and remembers what it was asked. What is asked and answered is held
 * against the API's description.
 */
type Asked = { method: string; path: string; query: Record<string, string>; body: unknown };
type Answer = object | ((asked: Asked) => object | Promise<object>);

let routes: Record<string, Answer> = {};
export const asked: Asked[] = [];

/** An answer that says no. */
export class Refused {
  readonly problem: Problem;

  constructor(status: number, detail: string, errors: Problem["errors"] = []) {
    this.problem = { type: "about:blank", title: "Refused", status, detail, errors };
  }
}

/** Gives answers to "GET /workspace" and the like, besides those given before. */
export function serve(more: Record<string, Answer>): void {
  routes = { ...routes, ...more };
}

export function reset(): void {
  routes = {};
  asked.length = 0;
  faults.length = 0;
}

/** What was asked or answered against the description. */
export const faults: string[] = [];

function told(check: () => void): string[] {
  try {
    check();
    return [];
  } catch (error) {
    return [String(error)];
  }
}

/** What was asked of a path by a method other than reading. */
export function sent(path: string): Asked[] {
  return asked.filter((one) => one.path === path && one.method !== "GET");
}

/** The last question to a path. */
export function last(path: string): Asked {
  return asked.findLast((one) => one.path === path)!;
}

globalThis.Request = class extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(new URL(String(input), location.href), { ...init, signal: null });
  }
};

globalThis.fetch = async (input) => {
  const request = input as Request;
  const { pathname, searchParams } = new URL(request.url);
  const path = pathname.replace("/api", "");
  const text = await request.text();
  const json = request.headers.get("content-type")?.includes("json");
  const { question: short, ...query } = Object.fromEntries(searchParams);
  // A short question to an analysis is one all the same.
  const question = {
    method: short ? "POST" : request.method,
    path,
    query,
    body: short || (text && json) ? JSON.parse(short ?? text) : text || null,
  };
  asked.push(question);
  const answer = routes[`${question.method} ${path}`];
  if (!answer) throw new TypeError(`nobody answers ${question.method} ${path}`);
  const given = typeof answer === "function" ? await answer(question) : answer;
  if (given instanceof Refused) return Response.json(given.problem, { status: given.problem.status });
  faults.push(
    ...told(() => checkQuestion(question.method, path, question.body)),
    ...told(() => checkAnswer(question.method, path, given)),
  );
  return Response.json(given);
};

export const account: Schemas["Account"] = {
  id: 1,
  email: "ana@estrel.example",
  role: "administrator",
  second_factor: "off",
  workspaces: [{ name: "main", title: "Main", role: "administrator", base: "", here: true }],
};

/** One's own account, with nothing but a password. */
export const ownAccount = {
  ...{ account, password: true, scopes: [], tokens: [], sessions: [], codes_left: 0, passkeys: [] },
};

/** Who is signed in: the administrator of the examples, or somebody else. */
export function signedIn(
  who: Partial<Schemas["Account"]> = {},
  more: Partial<Schemas["Session"]> = {},
): Schemas["Session"] {
  return {
    account: { ...account, ...who },
    demo: false,
    provider: null,
    passkeys: false,
    set_up: true,
    ...more,
  };
}

export const info: Schemas["Workspace"] = {
  time_zone: "Europe/Lisbon",
  ready: true,
  rebuilding: false,
  demo: false,
  generation: 1,
  default_as_of: "2026-10-31",
  today: "2026-11-01",
  visit_gap_minutes: 30,
  future_tolerance_minutes: 60,
  kept_months: null,
  events_from: null,
  data: null,
};

/** A workspace whose events go back to the beginning of 2024. */
export const longKept: Schemas["Workspace"] = {
  ...info,
  data: {
    ...{ profiles: 1000, events: 9000, oldest_day: "2024-01-01", newest_day: "2026-10-31" },
    ...{ newest_received_at: null, built_at: "2026-10-31T23:00:00Z", up_to_date: true },
  },
};

function type(id: number, name: string, numbers: string[], count: number): Schemas["EventType"] {
  const property = (name: string, type: Schemas["FieldType"]) => ({
    name,
    type,
    mixed: false,
    display: name.replaceAll("_", " "),
  });
  return {
    ...{ id, name, count, people: Math.ceil(count / 2), hidden: false, folder: "", not_activity: false },
    ...{ noun: name.replaceAll("_", " "), phrase: null },
    properties: [...numbers.map((number) => property(number, "number")), property("channel", "text")],
  };
}

export const catalogue: Schemas["Catalogue"] = {
  event_types: [
    type(1, "ride_ended", ["distance_km", "minutes"], 900),
    type(2, "pass_bought", ["price"], 90),
    type(3, "message_opened", [], 60),
  ],
  attributes: [{ name: "plan", type: "text", mixed: false, display: "plan" }],
  columns: ["identifier:customer", "profile_type", "state", "inactive_days", "attribute:plan"],
  messaging: {},
  aliases: {},
};
