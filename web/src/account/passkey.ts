import { startAuthentication, startRegistration } from "@simplewebauthn/browser";
import { Refusal, type Schemas } from "../lib/api/client";

export { browserSupportsWebAuthn as passkeysPossible } from "@simplewebauthn/browser";

const REASONS: Record<string, string> = {
  NotAllowedError: "No passkey was used: none was found on this device, or it was not confirmed in time.",
  InvalidStateError: "This device has a passkey for this account already.",
  SecurityError: "Passkeys work only at the configured address of Estrel. Open it there.",
};

/** Has the device make a passkey. */
export function makePasskey(options: object): Promise<Schemas["DeviceAnswer"]> {
  return answered(() =>
    startRegistration({ optionsJSON: options as Parameters<typeof startRegistration>[0]["optionsJSON"] }),
  );
}

/** Has the device answer by a passkey that it holds. */
export function showPasskey(options: object): Promise<Schemas["DeviceAnswer"]> {
  return answered(() =>
    startAuthentication({ optionsJSON: options as Parameters<typeof startAuthentication>[0]["optionsJSON"] }),
  );
}

/** Where the device does not answer, the reason in our words. */
async function answered(ask: () => Promise<object>): Promise<Schemas["DeviceAnswer"]> {
  try {
    return (await ask()) as Schemas["DeviceAnswer"];
  } catch (error) {
    const detail = REASONS[error instanceof Error ? error.name : ""] ?? "The device did not respond.";
    throw new Refusal({ type: "about:blank", title: "No passkey", status: 400, detail, errors: [] });
  }
}
