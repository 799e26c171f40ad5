import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { startAuthentication, startRegistration } from "@simplewebauthn/browser";
import { describe, expect, it, vi } from "vitest";
import { session } from "../lib/session.svelte";
import { token } from "../testing/examples";
import { account, ownAccount, Refused, sent, serve, signedIn } from "../testing/server";
import Own from "./Own.svelte";
import SignIn from "./SignIn.svelte";

vi.mock("@simplewebauthn/browser", () => ({
  browserSupportsWebAuthn: () => true,
  startRegistration: vi.fn(),
  startAuthentication: vi.fn(),
}));

/** As a browser says that nobody has confirmed anything. */
const notAllowed = Object.assign(new Error("timed out"), { name: "NotAllowedError" });
/** What a device answers. */
const shown = { id: "k", rawId: "k", type: "public-key", response: {} };

const outside = { account: null, demo: false, provider: null, passkeys: false, set_up: true };

describe("signing in", () => {
  it("takes an address and a password, and says no without losing the address", async () => {
    session.known = outside;
    render(SignIn);
    const user = userEvent.setup();
    expect(screen.queryByRole("button", { name: "Open demo" })).toBeNull();
    await user.type(screen.getByLabelText("Email address"), account.email);
    await user.type(screen.getByLabelText("Password"), "wrong{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("The server is not responding");
    serve({ "POST /session": new Refused(401, "the address or the password is wrong") });
    await user.click(screen.getByRole("button", { name: "Sign in" }));
    expect((await screen.findByRole("alert")).textContent).toContain("is wrong");
    expect(screen.getByLabelText("Email address")).toHaveProperty("value", account.email);
    serve({ "POST /session": signedIn() });
    await user.click(screen.getByRole("button", { name: "Sign in" }));
    await waitFor(() => expect(session.account).toEqual(account));
    expect(sent("/session").at(-1)!.body).toEqual({ email: account.email, password: "wrong" });
  });

  it("asks for a code once the password has been right, where there is a second factor", async () => {
    session.known = outside;
    const message = "enter the code that your application shows";
    serve({ "POST /session": new Refused(401, message, [{ place: "code", message }]) });
    render(SignIn);
    const user = userEvent.setup();
    await user.type(screen.getByLabelText("Email address"), account.email);
    await user.type(screen.getByLabelText("Password"), "right{Enter}");
    await user.type(await screen.findByLabelText(/^Authentication code/), "123 456");
    serve({ "POST /session": signedIn() });
    await user.click(screen.getByRole("button", { name: "Sign in" }));
    await waitFor(() => expect(session.account).toEqual(account));
    expect(sent("/session").at(-1)!.body).toEqual({
      email: account.email,
      password: "right",
      code: "123 456",
    });
  });

  it("signs in with a passkey, and says why not", async () => {
    session.known = { ...outside, passkeys: true };
    serve({ "POST /session/passkey/begin": { options: { challenge: "c" } } });
    vi.mocked(startAuthentication).mockRejectedValueOnce(notAllowed);
    render(SignIn);
    await userEvent.click(screen.getByRole("button", { name: "sign in with a passkey" }));
    expect((await screen.findByRole("alert")).textContent).toContain("not confirmed in time");
    vi.mocked(startAuthentication).mockResolvedValueOnce(shown as never);
    serve({
      "POST /session/passkey": signedIn({}, { passkeys: true }),
    });
    await userEvent.click(screen.getByRole("button", { name: "sign in with a passkey" }));
    await waitFor(() => expect(session.account).toEqual(account));
    expect(vi.mocked(startAuthentication).mock.lastCall).toEqual([{ optionsJSON: { challenge: "c" } }]);
    expect(sent("/session/passkey").at(-1)!.body).toEqual({ credential: shown });
  });

  it("offers the demo where that is allowed, and tells how the first administrator begins", async () => {
    session.known = { ...outside, demo: true, provider: "Ferrowick" };
    const { unmount } = render(SignIn);
    expect(screen.getByRole("link", { name: "sign in with Ferrowick" }).getAttribute("target")).toBe("_self");
    serve({ "POST /session/demo": signedIn({}, { demo: true }) });
    await userEvent.click(screen.getByRole("button", { name: "Open demo" }));
    await waitFor(() => expect(session.account).toEqual(account));
    unmount();
    session.known = { ...outside, set_up: false };
    render(SignIn);
    expect(screen.getByText(/No accounts yet/)).toBeTruthy();
  });

  it("sets a password by a link, of some length, and asks the first administrator for an address", async () => {
    session.known = outside;
    const { unmount } = render(SignIn, { link: "abc" });
    expect(screen.queryByLabelText("Email address")).toBeNull();
    expect(screen.getByLabelText(/^Password/)).toHaveProperty("minLength", 12);
    serve({ "POST /session/link": new Refused(422, "this link has been used") });
    await userEvent.type(screen.getByLabelText(/^Password/), "long enough for it{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("has been used");
    expect(sent("/session/link")[0]!.body).toMatchObject({ key: "abc", password: "long enough for it" });
    unmount();
    session.known = { ...outside, set_up: false };
    render(SignIn, { link: "abc" });
    expect(screen.getByTestId("sign-in").textContent).toContain("first administrator");
    expect(screen.getByLabelText("Email address")).toBeTruthy();
  });
});

describe("one's own account", () => {
  it("sets up a second factor, shows the codes to keep once, and takes it away for the password", async () => {
    session.known = signedIn();
    serve({
      "GET /account": { ...ownAccount, codes_left: 10 },
      "POST /account/second-factor": {
        secret: "ABCD EFGH",
        picture: "<svg xmlns='http://www.w3.org/2000/svg'/>",
      },
      "PUT /account/second-factor": new Refused(422, "the code is wrong"),
    });
    render(Own);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("your password"), "my password{Enter}");
    expect((await screen.findByTestId("secret")).textContent).toBe("ABCD EFGH");
    expect(screen.getByAltText(/QR code/).getAttribute("src")).toMatch(/^data:image\/svg/);
    await user.type(screen.getByLabelText(/^Current code/), "123456{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("is wrong");
    serve({ "PUT /account/second-factor": { codes: ["aaaaa-bbbbb"] } });
    await user.click(screen.getByRole("button", { name: "Turn on" }));
    expect((await screen.findByTestId("codes")).textContent).toContain("aaaaa-bbbbb");
    serve({
      "GET /session": signedIn({ second_factor: "on" }),
    });
    await user.click(screen.getByRole("button", { name: "Done" }));
    expect(await screen.findByText(/10 recovery codes/)).toBeTruthy();
    serve({
      "DELETE /account/second-factor": { account },
      "GET /session": signedIn(),
    });
    await user.type(screen.getByLabelText("your password"), "my password");
    await user.click(screen.getByRole("button", { name: "Turn off" }));
    expect(await screen.findByRole("button", { name: "Set up" })).toBeTruthy();
    expect(sent("/account/second-factor").map(({ method, body }) => [method, body])).toEqual([
      ["POST", { password: "my password" }],
      ["PUT", { code: "123456" }],
      ["PUT", { code: "123456" }],
      ["DELETE", { password: "my password" }],
    ]);
  });

  it("adds a passkey for the password, names it, and takes it away", async () => {
    session.known = signedIn({}, { passkeys: true });
    const passkey = { id: 4, name: "my phone", created_at: "2026-10-01T08:00:00.000000Z", used_at: null };
    serve({
      "GET /account": ownAccount,
      "POST /account/passkeys/begin": { options: { challenge: "c" } },
      "POST /account/passkeys": passkey,
    });
    vi.mocked(startRegistration).mockResolvedValueOnce(shown as never);
    render(Own);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("Name"), "my phone");
    await user.type(screen.getAllByLabelText("your password").at(-1)!, "my password");
    serve({ "GET /account": { ...ownAccount, passkeys: [passkey] } });
    await user.click(screen.getByRole("button", { name: "Add passkey" }));
    const table = within(await screen.findByTestId("passkeys"));
    expect(sent("/account/passkeys")[0]!.body).toEqual({ credential: shown, name: "my phone" });
    expect(table.getByText("my phone").closest("tr")!.textContent).toContain("never");
    serve({ "DELETE /account/passkeys/4": passkey, "GET /account": ownAccount });
    await user.click(table.getByRole("button", { name: "Remove my phone" }));
    await user.click(screen.getByRole("button", { name: "Remove permanently" }));
    await waitFor(() => expect(screen.queryByTestId("passkeys")).toBeNull());
  });

  it("lists where one is signed in, and signs out of one and of all others", async () => {
    const moments = { created_at: "2026-10-01T08:00:00.000000Z", used_at: "2026-10-02T08:00:00.000000Z" };
    const here = {
      id: 1,
      here: true,
      from_address: "203.0.113.9",
      agent: "Firefox/144.0 (X11; Linux)",
      ...moments,
    };
    const other = { ...here, id: 2, here: false, agent: "Chrome/140 Safari/537 (Windows NT)" };
    serve({
      "GET /account": { ...ownAccount, sessions: [here, other] },
      "DELETE /account/sessions/2": { sessions: [here] },
    });
    render(Own);
    const user = userEvent.setup();
    const table = within(await screen.findByTestId("sessions"));
    expect(table.getByText("Firefox, Linux").closest("tr")!.textContent).toContain("this device");
    await user.click(table.getByRole("button", { name: "Sign out Chrome, Windows" }));
    serve({
      "DELETE /account/sessions": { sessions: [here] },
      "GET /account": { ...ownAccount, sessions: [here] },
    });
    await user.click(screen.getByRole("button", { name: "Sign out all other devices" }));
    await waitFor(() => expect(screen.queryByText("Chrome, Windows")).toBeNull());
    expect(sent("/account/sessions/2")).toHaveLength(1);
  });

  it("issues tokens that are shown once, and revokes them", async () => {
    const own = { ...ownAccount, scopes: ["read", "Edit"], tokens: [token(3)] };
    serve({ "GET /account": own, "POST /account/tokens": { ...token(3), token: "et_secret" } });
    render(Own);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("New token for"), "nightly{Enter}");
    expect((await screen.findByTestId("token")).textContent).toContain("et_secret");
    expect(sent("/account/tokens")[0]!.body).toEqual({ name: "nightly", scopes: ["read"] });
    await user.click(screen.getByRole("button", { name: "Done" }));
    expect(screen.queryByText("et_secret")).toBeNull();
    serve({
      "DELETE /account/tokens/3": token(3, { revoked: true }),
      "GET /account": { ...own, tokens: [token(3, { revoked: true })] },
    });
    await user.click(screen.getByRole("button", { name: "Revoke nightly" }));
    await user.click(screen.getByRole("button", { name: "Revoke permanently" }));
    expect(await screen.findByText("revoked")).toBeTruthy();
  });

  it("keeps what was typed where the password before is wrong", async () => {
    serve({ "GET /account": ownAccount });
    serve({ "PUT /account/password": new Refused(422, "the password before is another") });
    render(Own);
    const user = userEvent.setup();
    await user.type(screen.getByLabelText("Current password"), "not it");
    await user.type(screen.getByLabelText(/^New password/), "long enough for it{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("is another");
    expect(screen.getByLabelText(/^New password/)).toHaveProperty("value", "long enough for it");
  });
});
