import { nice, ticks } from "d3-array";

/** From values to places along an axis, and back. */
export type Scale = {
  (value: number): number;
  invert: (place: number) => number;
  /** Round values within the domain: about so many, or 1, 2 and 5 of each power of ten on a logarithmic scale. */
  ticks: (count: number) => number[];
};
/** The same scale with a domain that begins and ends at round values, of which there are about so many. */
type Nice = { nice: (count: number) => Scale };
type Ends = [number, number];

/** Along a line; where the domain is a single value, all values are in the middle. */
export function linear(domain: Ends, [begin, end]: Ends): Scale & Nice {
  const [least, most] = domain;
  const share = (value: number) => (most === least ? 0.5 : (value - least) / (most - least));
  return Object.assign((value: number) => begin + share(value) * (end - begin), {
    invert: (place: number) => least + ((place - begin) / (end - begin)) * (most - least),
    ticks: (count: number) => ticks(least, most, count),
    nice: (count: number) => linear(nice(least, most, count), [begin, end]),
  });
}

/** Along a line of logarithms; the domain is positive. */
export function logarithmic([least, most]: Ends, range: Ends): Scale {
  const along = linear([Math.log(least), Math.log(most)], range);
  return Object.assign((value: number) => along(Math.log(value)), {
    invert: (place: number) => Math.exp(along.invert(place)),
    ticks: () => {
      const powers = [];
      for (let power = Math.floor(Math.log10(least)); power <= Math.log10(most); power++)
        powers.push(10 ** power);
      return powers
        .flatMap((power) => [power, 2 * power, 5 * power])
        .filter((at) => at >= least && at <= most);
    },
  });
}
