import { readFileSync } from "node:fs";
import { Validator } from "@seriousme/openapi-schema-validator";
import { describe, expect, it } from "vitest";

const description = JSON.parse(readFileSync("../var/api.json", "utf8")) as Record<string, unknown>;

/** Where a name has no value: what a comma cuts off an unquoted description in YAML becomes such a name. */
function strayNames(node: unknown, place = ""): string[] {
  if (typeof node !== "object" || node === null) return [];
  return Object.entries(node).flatMap(([name, value]) =>
    value === null && !["default", "const"].includes(name)
      ? Array.isArray(node)
        ? []
        : [`${place}/${name}`]
      : strayNames(value, `${place}/${name}`),
  );
}

describe("the API's description", () => {
  it("is valid OpenAPI, as another validator sees it", async () => {
    const { valid, errors } = await new Validator().validate(description);
    expect([valid, errors]).toEqual([true, undefined]);
  });

  it("has no names without values", () => {
    expect(strayNames(description)).toEqual([]);
    expect(strayNames({ a: { description: "so many", "that it counts": null } })).toEqual([
      "/a/that it counts",
    ]);
  });
});
