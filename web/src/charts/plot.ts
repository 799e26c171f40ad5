/** One line: its values (null where there is none), its colour, and maybe the ends of an interval around it. */
export type Line = {
  name: string;
  values: (number | null)[];
  colour: string;
  dash?: string;
  width?: number;
  low?: (number | null)[];
  high?: (number | null)[];
  /** Where something is marked on the line. */
  ticks?: boolean[];
};

type Point = [number, number];

/** Moves labels that stand too close to each other apart, and keeps them above the bottom. They are changed in place. */
export function apart<T extends { at: number }>(labels: T[], gap: number, bottom: number): T[] {
  labels.sort((one, other) => one.at - other.at);
  for (let index = 1; index < labels.length; index++) {
    labels[index]!.at = Math.max(labels[index]!.at, labels[index - 1]!.at + gap);
  }
  const over = labels.length ? labels.at(-1)!.at - bottom : 0;
  if (over > 0) labels.forEach((label) => (label.at -= over));
  return labels;
}

/** A line through the points that are there; where one is missing, the line is broken. */
export function broken(points: (Point | null)[]): string {
  let pen = "M";
  return points
    .map((point) => {
      if (!point) {
        pen = "M";
        return "";
      }
      const piece = `${pen}${point[0].toFixed(1)},${point[1].toFixed(1)}`;
      pen = "L";
      return piece;
    })
    .join("");
}

/** The same as steps: each value holds until the next point. */
export function stairs(points: Point[]): string {
  return points
    .map(([x, y], index) => (index ? `H${x.toFixed(1)}V${y.toFixed(1)}` : `M${x.toFixed(1)},${y.toFixed(1)}`))
    .join("");
}

/** The area between two lines, as far as both are known; where one is missing, the area is broken. */
export function band(low: (Point | null)[], high: (Point | null)[], steps: boolean): string {
  const pieces: { upper: Point[]; lower: Point[] }[] = [];
  let open = false;
  high.forEach((top, index) => {
    const bottom = low[index];
    if (top && bottom) {
      if (!open) pieces.push({ upper: [], lower: [] });
      pieces.at(-1)!.upper.push(top);
      pieces.at(-1)!.lower.unshift(bottom);
    }
    open = Boolean(top && bottom);
  });
  return pieces.map(({ upper, lower }) => between(upper, lower, steps)).join("");
}

/** The area under a line and over another one, which is given backwards. */
function between(upper: Point[], lower: Point[], steps: boolean): string {
  if (!steps) return `${broken(upper)}${broken(lower).replace("M", "L")}Z`;
  const back = lower.map(([x, y], index) => {
    const next = lower[index + 1];
    const here = index ? `H${x.toFixed(1)}` : `L${x.toFixed(1)},${y.toFixed(1)}`;
    return next ? `${here}V${next[1].toFixed(1)}` : here;
  });
  return `${stairs(upper)}${back.join("")}Z`;
}

/** A name as long as there is room for it and a number behind it. */
export function shortened(name: string, room: number): string {
  const most = Math.max(4, Math.floor(room / 7.5) - 8);
  return name.length > most ? `${name.slice(0, most - 1)}…` : name;
}
