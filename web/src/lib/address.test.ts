import { describe, expect, it } from "vitest";
import { address } from "./address.svelte";
import { workspace } from "./workspace.svelte";

describe("the address", () => {
  it("holds what is on screen, and takes dates, rule set and comparison along to other places", () => {
    address.go("/people?state=dormant&as_of=2026-09-01&compare=1,2&page=3");
    expect(address.with({ page: null, state: "churned" })).toBe(
      "/people?state=churned&as_of=2026-09-01&compare=1%2C2",
    );
    expect(address.with({}, "/audiences")).toBe("/audiences?as_of=2026-09-01&compare=1%2C2");
    expect(address.to("/exports", { export: "x", step: null })).toBe(
      "/exports?as_of=2026-09-01&compare=1%2C2&export=x",
    );
    address.go("/");
    expect(address.to("/exports")).toBe("/exports");
  });

  it("goes back, notes without going anywhere, and replaces where that is asked for", async () => {
    address.go("/people");
    address.go("/people?page=2");
    const steps = history.length;
    address.go("/people?page=3", { replace: true });
    address.note({ draft: "a" });
    expect(history.length).toBe(steps);
    expect(location.search).toBe("?page=3&draft=a");
    expect(address.get("draft")).toBeNull();
    const gone = new Promise((resolve) => addEventListener("popstate", resolve, { once: true }));
    history.back();
    await gone;
    expect([address.path, address.get("page")]).toEqual(["/people", null]);
  });

  it("follows plain clicks on links of our own, and no others", () => {
    const follow = (html: string, init: MouseEventInit = {}) => {
      address.go("/");
      document.body.innerHTML = html;
      document.body.onclick = (event) => {
        address.follow(event);
        event.preventDefault();
      };
      document
        .querySelector("b")!
        .dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true, ...init }));
      return address.path;
    };
    expect(follow(`<a href="/people"><b>x</b></a>`)).toBe("/people");
    expect(follow(`<a href="/people"><b>x</b></a>`, { ctrlKey: true })).toBe("/");
    expect(follow(`<a href="/people"><b>x</b></a>`, { button: 1 })).toBe("/");
    expect(follow(`<a href="/people" target="_blank"><b>x</b></a>`)).toBe("/");
    expect(follow(`<a href="/api/log.csv"><b>x</b></a>`)).toBe("/");
    expect(follow(`<a href="https://elsewhere.example/people"><b>x</b></a>`)).toBe("/");
    document.body.onclick = null;
  });
});

describe("the workspace", () => {
  it("takes its dates from the address, or the last day there is data for", () => {
    expect(workspace.dates).toEqual({ as_of: "2026-10-31" });
    expect(workspace.ruleSetCondition).toEqual({});
    workspace.ruleSets = [...workspace.ruleSets, { ...workspace.ruleSets[0]!, id: 8, default: false }];
    address.go("/?as_of=2026-05-01&received_by=2026-05-09&rules=8");
    expect(workspace.dates).toEqual({ as_of: "2026-05-01", received_by: "2026-05-09", rule_set: 8 });
    expect(workspace.ruleSet!.id).toBe(8);
    expect(workspace.ruleSetCondition).toEqual({ rule_set: { id: 8 } });
    workspace.ruleSets = [{ ...workspace.ruleSets[1]!, activity: [] }];
    expect(workspace.ruleSet).toBeNull();
  });
});

describe("what an address holds that makes no sense", () => {
  const bad: [string, ...string[]][] = [
    ["as_of", "yesterday", "2026-02-30", "2026-1-1", "20261031"],
    ["received_by", "2026-13-01"],
    ["from", "-7"],
    ["page", "0", "-1", "1.5", "NaN", "1e3", "99999999999"],
    ["rules", "first", "3;DROP"],
    ["state", "happy", "Active"],
    ["profile_type", "robot"],
    ["range", "0", "forever"],
    ["alert", "-5", "much", "Infinity"],
    ["compare", "1,,2", "x", "1--"],
    ["definition", "{", "[]", "null", "7", "people"],
    ["measure", "love"],
  ];

  it.each(bad)("is left out and reported: %s", (name, ...texts) => {
    for (const text of texts) {
      address.go(`/people?${new URLSearchParams({ [name]: text, search: "F1" }).toString()}`);
      expect(address.left, text).toEqual([name]);
      expect(address.get(name)).toBeNull();
      expect(address.with({ page: "2" })).toBe("/people?search=F1&page=2");
    }
  });

  it("is no longer reported once it is gone, and what makes sense stays", () => {
    const fine =
      "as_of=2024-02-29&page=12&state=never_active&compare=4%2C5-&alert=0.5&definition=%7B%22all%22%3A%5B%5D%7D&by=x&page2=";
    address.go(`/people?${fine}`);
    expect(address.left).toEqual([]);
    expect(address.with({})).toBe(`/people?${fine}`);
    address.go("/?as_of=tomorrow");
    expect(workspace.asOf).toBe("2026-10-31");
    expect(address.to("/audiences")).toBe("/audiences");
  });
});
