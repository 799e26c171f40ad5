import { isCondition, parsed } from "./shapes";

/** What the names in an address may hold. A name that is not here may hold any text. */
const DATE = /^\d{4}-\d{2}-\d{2}$/;
const MOST = 2 ** 31 - 1;

/** A day of the calendar; also one of the year 26, since a year is typed figure by figure. */
export function isDate(text: string): boolean {
  if (!DATE.test(text)) return false;
  const time = Date.parse(`${text}T00:00:00Z`);
  return !Number.isNaN(time) && new Date(time).toISOString().startsWith(text);
}

export function isWhole(text: string, least = 1, most = MOST): boolean {
  return /^\d{1,16}$/.test(text) && Number(text) >= least && Number(text) <= most;
}

function isNumber(text: string): boolean {
  return text.trim() !== "" && Number.isFinite(Number(text)) && Number(text) > 0;
}

/** A definition: an object that says which conditions all hold, or one condition. */
const isDefinition = (text: string) => parsed(text, isCondition) !== null;

const oneOf = (text: string) => {
  const known = text.split(" ");
  return (value: string) => known.includes(value);
};
const STATES = "never_active new active dormant churned";

const FORMS: Record<string, (text: string) => boolean> = {
  ...Object.fromEntries(
    ["as_of", "received_by", "from", "to", "date", "between", "and", "until", "since"].map((name) => [
      name,
      isDate,
    ]),
  ),
  ...Object.fromEntries(
    ["rules", "audience", "saved", "page", "dormant", "churned", "days", "why", "held_by", "standing"].map(
      (name) => [name, (text: string) => isWhole(text)],
    ),
  ),
  ...{ alert: isNumber, size: isNumber, definition: isDefinition, whom: isDefinition },
  compare: (text) => {
    const ids = text.split(",").map((part) => part.replace(/-$/, ""));
    return ids.every((id) => isWhole(id)) && new Set(ids).size === ids.length;
  },
  state: oneOf(STATES),
  profile_type: oneOf("visitor contact customer"),
  drawn: oneOf("shares bars time waits"),
  without: (text) => text.split(",").every(oneOf(`${STATES} none`)),
  range: oneOf("90 180 365 all"),
  behind: oneOf("previous year"),
  better: oneOf("more less"),
  base: (text) => ["everybody", "customers", "known"].includes(text) || isWhole(text),
  whose: oneOf("mine shared"),
  top: (text) => isWhole(text, 1, 200),
  measure: oneOf(
    "back active state did people times per_person share_of_active sum mean median p90 min max sum_per_person distinct",
  ),
  figure: oneOf("visits people per_person mean median p90 single days per_day"),
  shown: oneOf("time length often clock since people"),
  unit: oneOf("events days weeks visits seconds minutes hours"),
  along: oneOf("visit day week time level"),
  what: oneOf("rates per_person shares people so_far running"),
  most: (text) => /^(?:visits|people|times|time|sum:[^:]+:.+)$/.test(text), // linear: one run, then the rest
  direction: oneOf("before"),
  counted: oneOf("people times or_later and_before every by ranges"),
  starts: oneOf("each"),
  chance: oneOf("lapse"),
  elapsed: oneOf("1"),
  combined: oneOf("per plus minus"),
  hidden: (text) => text.split(",").every((part) => isWhole(part, 0)),
  columns: (text) => parsed(text, Array.isArray) !== null,
};

/** Whether what an address holds under a name makes sense. */
export function makesSense(name: string, text: string): boolean {
  return text === "" || (FORMS[name]?.(text) ?? true);
}
