import { area, curveLinear, curveStepAfter, line } from "d3-shape";

/** One line: its values (null where there is none), its colour, and maybe the ends of an interval around it. */
export type Line = {
  name: string;
  values: (number | null)[];
  colour: string;
  dash?: string;
  width?: number;
  low?: (number | null)[];
  high?: (number | null)[];
  /** Whether it stands behind others and is not named at its end. */
  behind?: boolean;
  /** Where something is marked on the line. */
  ticks?: boolean[];
};

type Point = [number, number];
/** How wide a letter of a name is, about. */
const LETTER = 6.5;
/** The width of a letter of a label, of which some are bold. */
const LABEL = 7;
/** Null where there is none. */
type Points = (Point | null)[];

/** Moves labels that stand too close to each other apart, and keeps them above the bottom. They are changed in place. */
export function apart<T extends { at: number }>(labels: T[], gap: number, bottom: number): T[] {
  labels.sort((one, other) => one.at - other.at);
  for (let index = 1; index < labels.length; index++) {
    labels[index]!.at = Math.max(labels[index]!.at, labels[index - 1]!.at + gap);
  }
  let room = bottom;
  for (const label of labels.toReversed()) {
    label.at = Math.min(label.at, room);
    room = label.at - gap;
  }
  return labels;
}

/** Of names centred on places along a line, from left to right, those that fit without touching each other. */
export function fitting<T extends { at: number; text: string }>(names: T[]): T[] {
  let end = -Infinity;
  return names.filter(({ at, text }) => {
    const half = (text.length * LETTER) / 2;
    if (at - half < end) return false;
    end = at + half + LETTER;
    return true;
  });
}

/** "21× or more" as it is where there is room for it, and else as "≥21×". */
export function orMore(name: string, room: number): string {
  return name.length * LETTER > room ? name.replace(/^(.+) or more$/, "≥$1") : name;
}

/** A line through the points that are there, from value to value or in steps; where one is missing, it is broken. */
export function way(points: Points, steps = false): string {
  return (
    line<Point | null>()
      .defined((point) => point !== null)
      .x((point) => point![0])
      .y((point) => point![1])
      .curve(steps ? curveStepAfter : curveLinear)
      .digits(1)(points) ?? ""
  );
}

/** The area between two lines over the same places, as far as both are known. */
export function band(low: Points, high: Points, steps = false): string {
  return (
    area<number>()
      .defined((index) => Boolean(low[index] && high[index]))
      .x((index) => high[index]![0])
      .y0((index) => low[index]![1])
      .y1((index) => high[index]![1])
      .curve(steps ? curveStepAfter : curveLinear)
      .digits(1)(high.keys()) ?? ""
  );
}

/** A name as long as there is room for it and what is said behind it. */
export function shortened(name: string, room: number, behind = "1,000,000"): string {
  const most = Math.max(4, Math.floor(room / LABEL) - behind.length - 1);
  return name.length > most ? `${name.slice(0, most - 1)}…` : name;
}
