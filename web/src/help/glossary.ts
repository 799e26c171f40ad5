/** One term: what it is in a sentence, how it is computed, and where that comes from. */
export type Term = { name: string; text: string; formula?: string; source?: string };

/** One sentence on every figure with a technical name; the glossary page is made of the same texts. */
export const GLOSSARY = {
  profile_type: {
    name: "Profile type",
    text: "A visitor is known by a device or browser only, a contact by an address or a custom ID, a customer by an ID that the business issued.",
  },
  states: {
    name: "Lifecycle states",
    text: "Everybody has exactly one state on every day: never active, churned, dormant, new or active, tried in this order.",
    formula:
      "inactive ≥ churned after → churned; inactive ≥ dormant after → dormant; days since the first activity < new for → new; otherwise active",
  },
  reactivated: {
    name: "Reactivated",
    text: "New or active again after having been dormant or churned; a mark on the state, not a further state.",
  },
  gain_loss_ratio: {
    name: "Gain/loss ratio",
    text: "How many people are won for each one lost; below 1 the active base shrinks.",
    formula: "(joined + reactivated) ÷ lapsed",
  },
  joined: { name: "Joined", text: "From never active to new or active between two dates." },
  retained: { name: "Retained", text: "New or active on both dates." },
  lapsed: { name: "Lapsed", text: "From new or active to dormant or churned between two dates." },
  newly_churned: { name: "Newly churned", text: "From dormant to churned between two dates." },
  came_and_lapsed: {
    name: "Came and lapsed",
    text: "From never active to dormant or churned between two dates: they came and were gone again before the second.",
  },
  inactivity_gap: {
    name: "Inactivity gap",
    text: "The days between two activity days of a person; the last one is not over yet.",
  },
  still_inactive: {
    name: "Still inactive",
    text: "The share of inactivity gaps that last longer than so many days, with gaps that are not over yet counted for as long as they have lasted.",
    formula: "S(t) = ∏ (1 − ended at tᵢ ÷ at risk at tᵢ), over all tᵢ ≤ t",
    source: "Kaplan and Meier, 1958",
  },
  reactivation: {
    name: "Chance of reactivation",
    text: "How likely somebody who has been inactive for t days becomes active within a horizon of H days.",
    formula: "1 − S(t + H) ÷ S(t)",
    source: "from the Kaplan–Meier estimate; bands respect that one person has many gaps",
  },
  at_risk: {
    name: "At risk",
    text: "Inactivity gaps that have lasted so many days and could end on that day; estimates from few of them are uncertain.",
  },
  censored: {
    name: "Not over yet (censored)",
    text: "Gaps of which only the beginning is known, since the as-of date came first.",
  },
  interval: {
    name: "95% interval",
    text: "The range in which the true value lies in 95 of 100 such samples; a difference whose interval holds 0 may be chance.",
  },
  share_interval: {
    name: "Interval of a difference of shares",
    text: "The 95% interval of the second share minus the first, for two independent groups.",
    source: "Newcombe, 1998, method 10",
  },
  lift: {
    name: "Lift",
    text: "How many times as many people as would be expected if the groups were independent of each other.",
    formula: "people in both × everybody ÷ (people in one × people in the other)",
  },
  p_value: {
    name: "p-value",
    text: "How often a difference at least this large would arise by chance alone, were there none.",
  },
  minimum_detectable_effect: {
    name: "Minimum detectable effect",
    text: "The smallest difference that an experiment of this size finds in 8 of 10 cases.",
    formula: "power 80%, significance 5%",
  },
  holdout: {
    name: "Holdout (control group)",
    text: "Members who are not messaged on purpose, to measure against; who they are depends on the person and the holdout alone, so it is the same in every run.",
  },
  standing_holdout: {
    name: "Standing holdout",
    text: "A share of everybody whom no export messages for a time, most often a quarter, to measure all marketing against.",
  },
  excluded: {
    name: "Excluded",
    text: "Not exported: no address, an invalid one, consent withdrawn, messaged too recently, on a list, or the same address twice.",
  },
  response_streak: {
    name: "Response streak",
    text: "Messages of a campaign in a row that a person opened or clicked in; the current one ends with the newest message.",
  },
  visit: {
    name: "Visit",
    text: "Events of a person with no gap longer than the visit gap between them; it belongs to the day on which it starts.",
  },
  revision: {
    name: "Revision",
    text: "A past figure that events received later, or other rules, have changed since.",
  },
  as_of: { name: "As of", text: "At the end of that day in the workspace's time zone." },
  received_by: {
    name: "Using data received by",
    text: "The same question, with only what had been received by the end of that day.",
  },
  active_share: {
    name: "Active within the last N days",
    text: "People with activity on at least one of the N days up to the as-of date.",
  },
  growth: {
    name: "Growth",
    text: "How much more or less than in the same number of days before.",
    formula: "(now − before) ÷ before",
  },
} satisfies Record<string, Term>;

export type TermKey = keyof typeof GLOSSARY;

/** Which term the heading of a column stands for, by the keys of table and column. */
const COLUMNS: Record<string, TermKey> = {
  ratio: "gain_loss_ratio",
  lift: "lift",
  at_risk: "at_risk",
  censored: "censored",
  still: "still_inactive",
  reactivation: "reactivation",
  growth: "growth",
  newly: "newly_churned",
  joined: "joined",
  retained: "retained",
  lapsed: "lapsed",
  reactivated: "reactivated",
  difference: "share_interval",
  longest: "response_streak",
  gaps: "inactivity_gap",
};

export function termOf(column: string): TermKey | null {
  return COLUMNS[column] ?? null;
}
