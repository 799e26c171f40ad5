import { duration } from "../../lib/format";
import { colourOf } from "../inks";
import type { Line, Picture } from "./question";

const DAY = 86_400;
const COLOURS = 6;

/** The steps that are waited for: those that may not be skipped, but for the first. */
export function linksOf(data: Picture): number[] {
  return data.steps.map((_, at) => at).filter((at) => at > 0 && !data.optional.includes(at));
}

/** "10 min to 1 h"; a day is said as one, unlike elsewhere. */
function bar(low: number | undefined, high: number | undefined): string {
  const said = (seconds: number) => (seconds === DAY ? "1 day" : duration(seconds));
  if (low === undefined) return `< ${said(high!)}`;
  return high === undefined ? `${said(low)} +` : `${said(low)}–${said(high)}`;
}

/**
 * How long it took, as bars: of one line from step to step beside each other, of several lines the wait before one step.
 *
 * @param link the number of this step; the first there is where nothing is said
 */
export function barsOf(data: Picture, link: number | null) {
  const places = [...data.waits, undefined].map((high, index) => bar(data.waits[index - 1], high));
  const links = linksOf(data);
  const one = link !== null && links.includes(link) ? link : links[0]!;
  const shares = (line: Line, at: number) => {
    const spread = line.steps[at]!.spread;
    const all = spread?.reduce((sum, count) => sum + count, 0) ?? 0;
    return places.map((_, index) => (spread && all ? spread[index]! / all : null));
  };
  const told =
    data.rows.length > 1
      ? data.rows.map((line) => ({ name: line.name, line, at: one }))
      : links.map((at) => ({ name: `time until they ${data.steps[at]}`, line: data.rows[0]!, at }));
  const series = told.map(({ name, line, at }, index) => ({
    name,
    colour: data.rows.length > 1 ? colourOf(line, index) : `var(--comparison-${index % COLOURS})`,
    values: shares(line, at),
    hrefs: places.map(() => null),
    wait: line.steps[at]!.wait,
  }));
  return { places, series };
}
