import type { Schemas } from "../../lib/api/client";
import { Reader } from "../codec";

export type Picture = Schemas["ChancePicture"];
export type Kind = Picture["of"];
/** Whom it is about, and what they may do. */
export const KINDS: Record<Kind, string> = {
  come_back: "dormant and churned people to be reactivated",
  lapse: "new and active people to lapse",
};
export const WITHIN = [7, 14, 30, 60, 90, 180];

/** What the address asks. */
export function read() {
  const reader = new Reader();
  return {
    of: reader.oneOf("chance", ["lapse"] as const) ?? ("come_back" as const),
    within: reader.whole("within", 7, 180) ?? 30,
    left: reader.left,
  };
}
