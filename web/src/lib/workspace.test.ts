import { expect, it } from "vitest";
import { serve } from "../testing/server";
import { workspace } from "./workspace.svelte";

it("counts alerts by the newest question, though an earlier one is answered later", async () => {
  const answers: ((unread: number) => void)[] = [];
  serve({
    "GET /alerts": () =>
      new Promise((resolve) =>
        answers.push((unread) => resolve({ unread, alerts: [], alert_rules: [], kinds: [] })),
      ),
  });
  const counts = [workspace.countAlerts(), workspace.countAlerts()];
  while (answers.length < 2) await new Promise((resolve) => setTimeout(resolve));
  answers[1]!(1);
  await counts[1];
  answers[0]!(0);
  await counts[0];
  expect(workspace.unread).toBe(1);
});
