import { expect, test } from "vitest";
import { linear, logarithmic } from "./scale";

test("a linear scale goes both ways, and has round values", () => {
  const scale = linear([0, 50], [200, 100]);
  expect([0, 25, 50, 60].map(scale)).toEqual([200, 150, 100, 80]);
  expect(scale.invert(150)).toBe(25);
  expect(scale.ticks(5)).toEqual([0, 10, 20, 30, 40, 50]);
  const rounded = linear([0.3, 47], [0, 100]).nice(5);
  expect([rounded(0), rounded(50)]).toEqual([0, 100]);
});

test("a domain of a single value is in the middle", () => {
  expect(linear([3, 3], [0, 10])(3)).toBe(5);
});

test("a logarithmic scale gives equal distances to equal ratios", () => {
  const scale = logarithmic([1, 100], [0, 10]);
  expect([1, 10, 100].map(scale)).toEqual([0, 5, 10]);
  expect(scale.invert(5)).toBeCloseTo(10);
  expect(scale.ticks(4)).toEqual([1, 2, 5, 10, 20, 50, 100]);
  expect(logarithmic([0.4, 3], [0, 1]).ticks(4)).toEqual([0.5, 1, 2]);
});
