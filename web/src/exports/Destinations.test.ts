import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { last, Refused, sent, serve } from "../testing/server";
import Destinations from "./Destinations.svelte";

const folder = { id: 1, name: "Outbox", kind: "folder", settings: { folder: "weekly" } };
const webhook = {
  ...{ id: 2, name: "Post", kind: "webhook" },
  settings: { url: "https://post.example/people", batch_size: 500, rows_per_second: 1000, timeout: 30 },
};

async function shown(...destinations: object[]) {
  serve({ "GET /destinations": { destinations } });
  render(Destinations);
  await screen.findByRole("button", { name: "Create destination" });
  return userEvent.setup();
}

describe("destinations", () => {
  it("are made with a secret that is shown once", async () => {
    const user = await shown();
    expect(screen.queryByTestId("destinations")).toBeNull();
    await user.selectOptions(screen.getByLabelText(/^New/), "webhook");
    await user.type(screen.getByLabelText("called"), "Post");
    await user.type(screen.getByLabelText("at the address"), webhook.settings.url);
    await user.clear(screen.getByLabelText("People per message"));
    await user.type(screen.getByLabelText("People per message"), "250");
    serve({
      "POST /destinations": { ...webhook, secret: "whsec_abc" },
      "GET /destinations": { destinations: [webhook] },
    });
    await user.click(screen.getByRole("button", { name: "Create destination" }));
    expect(last("/destinations").method).toBe("GET");
    expect(sent("/destinations")[0]!.body).toEqual({
      ...{ name: "Post", kind: "webhook" },
      settings: { url: webhook.settings.url, batch_size: 250, timeout: 30, notices: false },
    });
    expect((await screen.findByTestId("secret")).textContent).toContain("whsec_abc");
    await user.click(screen.getByRole("button", { name: "Done" }));
    expect(screen.queryByText("whsec_abc")).toBeNull();
    expect(screen.getByLabelText("called")).toHaveProperty("value", "");
  });

  it("are changed keeping their secret, tried out, and kept where exports use them", async () => {
    const user = await shown(folder, webhook);
    const row = (at: number) => within(screen.getAllByRole("row")[at]!);
    expect(row(1).getByText("outbox/weekly")).toBeTruthy();
    expect(row(1).queryByRole("button", { name: /Try/ })).toBeNull();
    expect(
      row(2).getByText(/500 people per message, max. 1,000 per second, timeout 30 s/),
    ).toBeTruthy();
    await user.click(row(2).getByRole("button", { name: "Change Post" }));
    expect(screen.getByLabelText("secret")).toHaveProperty("placeholder", "unchanged");
    await user.clear(screen.getByLabelText("Max. people per second"));
    serve({ "PUT /destinations/2": { ...webhook, secret: null } });
    await user.click(screen.getByRole("button", { name: "Save Post" }));
    expect(sent("/destinations/2")[0]!.body).toEqual({
      ...{ name: "Post", kind: "webhook" },
      settings: { url: webhook.settings.url, batch_size: 500, timeout: 30, notices: false },
    });
    await screen.findByRole("button", { name: "Create destination" });
    serve({
      "POST /destinations/2/try": { works: false, says: "it answered with a page of HTML" },
      "DELETE /destinations/2": new Refused(409, "the export “Sleepy” puts its people there"),
    });
    await user.click(row(2).getByRole("button", { name: "Try it: Post" }));
    expect((await row(2).findByRole("status")).textContent).toContain(
      "Connection failed: it answered with a page",
    );
    await user.click(row(2).getByRole("button", { name: "Remove Post" }));
    await user.keyboard("{Escape}");
    expect(document.activeElement).toBe(row(2).getByRole("button", { name: "Remove Post" }));
    await user.keyboard("{Enter}");
    await user.click(row(2).getByRole("button", { name: "Remove permanently" }));
    expect((await screen.findByRole("alert")).textContent).toContain("“Sleepy” puts its people there");
    expect(screen.getAllByRole("row")).toHaveLength(3);
  });

  it("keep what was filled in where it is refused", async () => {
    const user = await shown();
    await user.type(screen.getByLabelText("called"), "Sly");
    await user.type(screen.getByLabelText("in the folder"), "../etc");
    serve({ "POST /destinations": new Refused(422, "a folder has a plain name") });
    await user.click(screen.getByRole("button", { name: "Create destination" }));
    await waitFor(() => expect(screen.getByRole("alert").textContent).toContain("plain name"));
    expect(screen.getByLabelText("in the folder")).toHaveProperty("value", "../etc");
  });
});
