import type { Node, Selection } from "../audiences/definition";

// Whether JSON that comes from outside (an address, a file, what somebody types) has the shape that pages take apart.
// What it says is the server's to judge.
type Json = Record<string, unknown>;

function isObject(json: unknown): json is Json {
  return typeof json === "object" && json !== null && !Array.isArray(json);
}

/** Whether something is left out, or all of a list that pass. */
function listOf(json: unknown, passes: (one: unknown) => boolean): boolean {
  return json === undefined || (Array.isArray(json) && json.every(passes));
}

const isText = (json: unknown) => typeof json === "string";
const maybe = (json: unknown, passes: (one: unknown) => boolean) => json === undefined || passes(json);

/** A condition of an audience, or several. */
export function isCondition(json: unknown): json is Node {
  if (!isObject(json) || Object.keys(json).length === 0) return false;
  const { all, any, not, ...kinds } = json;
  return (
    listOf(all, isCondition) &&
    listOf(any, isCondition) &&
    maybe(not, isCondition) &&
    Object.values(kinds).every(isObject)
  );
}

/** A comparison of a property, or several of these joined. */
function isFilter(json: unknown): boolean {
  if (!isObject(json)) return false;
  const { all, any, property, attribute, compare } = json;
  if (all !== undefined || any !== undefined) return listOf(all, isFilter) && listOf(any, isFilter);
  return [property, attribute, compare].every((one) => maybe(one, isText)) && isText(compare);
}

const OF_A_SELECTION = ["event", "events", "any_event", "where", "without", "optional"];

/** Which events are meant; also a step of a funnel. */
export function isSelection(json: unknown): json is Selection {
  if (!isObject(json)) return false;
  const { event, events, any_event: anything, where, without } = json;
  return (
    Object.keys(json).every((key) => OF_A_SELECTION.includes(key)) &&
    [event, events, anything].some((one) => one !== undefined) &&
    maybe(event, isText) &&
    [events, without].every(
      (names) => listOf(names, isText) && (names as unknown[] | undefined)?.length !== 0,
    ) &&
    maybe(anything, (one) => one === true) &&
    listOf(where, isFilter)
  );
}

/** What a text holds as JSON, where that passes; otherwise null. */
export function parsed<T>(text: string, passes: (json: unknown) => json is T): T | null {
  try {
    const json: unknown = JSON.parse(text);
    return passes(json) ? json : null;
  } catch {
    return null;
  }
}
