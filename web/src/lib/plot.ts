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
export function broken(points: ([number, number] | null)[]): string {
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
export function stairs(points: [number, number][]): string {
  return points
    .map(([x, y], index) => (index ? `H${x.toFixed(1)}V${y.toFixed(1)}` : `M${x.toFixed(1)},${y.toFixed(1)}`))
    .join("");
}
