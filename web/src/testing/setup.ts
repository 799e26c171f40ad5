// First of all: the client of the API takes what it asks with when it is made.
import { catalogue, faults, info, ruleSet, reset, signedIn } from "./server";
import { cleanup, configure } from "@testing-library/svelte";
import { afterEach, beforeEach, expect } from "vitest";
import { address } from "../lib/address.svelte";
import { session } from "../lib/session.svelte";
import { workspace } from "../lib/workspace.svelte";

// What is waited for may take its time where the machine is busy.
configure({ asyncUtilTimeout: 15_000 });

// There is no window to scroll or to measure.
globalThis.scrollTo = () => {};
Element.prototype.scrollIntoView = () => {};
globalThis.ResizeObserver = class {
  observe() {}
  unobserve() {}
  disconnect() {}
};

// Everything starts as an administrator sees it who has just opened Estrel.
beforeEach(() => {
  reset();
  sessionStorage.clear();
  address.go("/");
  session.known = signedIn();
  workspace.info = workspace.heartbeat = info;
  workspace.catalogue = catalogue;
  workspace.ruleSets = [ruleSet];
});

afterEach(() => {
  cleanup();
  document.body.replaceChildren(); // what a test has put there itself
  expect(faults).toEqual([]);
});
