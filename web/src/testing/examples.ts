import type { Schemas } from "../lib/api/client";

/** Whole answers of the server, typed as they are, to be changed where an example needs it. */
const MOMENT = "2026-10-01T08:00:00.000001Z";
const mine = { owner: null, mine: true, private: false };

export function audienceRow(
  id: number,
  name: string,
  more: Partial<Schemas["AudienceRow"]> = {},
): Schemas["AudienceRow"] {
  return {
    ...mine,
    ...{ id, name, folder: "", note: "", version: 1, sentence: "", updated_at: MOMENT, deleted: false },
    ...{ size: 10, fault: null, uses: 0 },
    ...more,
  };
}

export function audience(
  id: number,
  name: string,
  definition: Schemas["Definition"],
  more: Partial<Schemas["Audience"]> = {},
): Schemas["Audience"] {
  return {
    ...mine,
    ...{ id, name, folder: "", note: "", version: 1, sentence: "", updated_at: MOMENT, deleted: false },
    ...{ definition, digest: "ab" },
    ...more,
  };
}

export const ruleSet: Schemas["RuleSet"] = {
  ...mine,
  ...{ id: 7, name: "Riders", default: true, version: 1, chosen: true, updated_at: MOMENT, hidden: [] },
  ...{ new_for: 30, active_within: 30, churned_after: 90 },
  activity: [{ event: "ride_ended" }],
  population: null,
  population_name: null,
  channel: null,
};

export function destination(
  id: number,
  name: string,
  more: Partial<Schemas["Destination"]> = {},
): Schemas["Destination"] {
  return { id, name, kind: "webhook", settings: { url: "https://post.example/" }, ...more };
}

export const people: Schemas["Waterfall"] = {
  audience: 1000,
  no_address: 120,
  invalid_address: 0,
  consent_withdrawn: 30,
  messaged: 0,
  listed: 0,
  repeated: 0,
  standing_holdout: 0,
  holdout: 50,
  exported: 800,
};

export function run(id: number, more: Partial<Schemas["Run"]> = {}): Schemas["Run"] {
  return {
    ...{ id, export_id: 3, export: "Sleepy", audience_id: 2, audience: "Dormant", version: 4 },
    ...{ sentence: "dormant people", rules: { columns: [] }, as_of: "2026-10-31", received_by: "2026-10-31" },
    ...{ state: "done" as const, people, row_count: 800, bytes: 81_234, sha256: "ab12cd34ef" },
    ...{ file_removed_because: null, file_name: "sleepy.csv.gz", error: null, waits_because: null },
    ...{ attempts: 1, cancel_requested: false, started_by: "hand", note: "", seconds: 1.24 },
    ...{
      rows_per_second: 645,
      push: null,
      exported_at: null,
      finished_at: null,
      created_at: "2026-11-01T06:00:00Z",
    },
    ...more,
  };
}

export function exportRow(id: number, more: Partial<Schemas["Export"]> = {}): Schemas["Export"] {
  return {
    ...mine,
    ...{ id, name: "Sleepy", audience_id: 4, audience: "Dormant", version: null, newest_version: 1 },
    ...{ sentence: "", destination_id: null, destination: null, rules: { columns: [] } },
    ...{ created_at: MOMENT, updated_at: MOMENT, next_run_at: null, last_run: null },
    ...more,
  };
}

export function accountRow(
  id: number,
  email: string,
  more: Partial<Schemas["AccountRow"]> = {},
): Schemas["AccountRow"] {
  return {
    id,
    email,
    role: "viewer",
    disabled: false,
    second_factor: "off",
    set_up: true,
    created_at: MOMENT,
    ...more,
  };
}

export function token(id: number, more: Partial<Schemas["Token"]> = {}): Schemas["Token"] {
  return {
    ...{ id, name: "nightly", hint: "et_…9f", scopes: ["read"], revoked: false },
    ...{ created_at: "2026-11-01T06:00:00Z", used_at: null },
    ...more,
  };
}
