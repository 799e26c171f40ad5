/** One term: what it is in a sentence, how it is computed, and where that comes from. */
export type Term = { name: string; text: string; formula?: string; source?: string };

/** One sentence on every figure with a technical name; the glossary page is made of the same texts. */
export const GLOSSARY = {
  profile_type: {
    name: "Profile type",
    text: "Visitor: only a device or browser ID is known. Contact: an email address, phone number or custom ID. Customer: a customer ID.",
  },
  states: {
    name: "Lifecycle states",
    text: "Each person is in exactly one state per day. The first rule that applies decides: never active, churned, dormant, new, active.",
    formula:
      "inactive ≥ churned after → churned; inactive ≥ dormant after → dormant; days since the first activity < new for → new; otherwise active",
  },
  reactivated: {
    name: "Reactivated",
    text: "New or active again after being dormant or churned. A flag on the state, not a separate state.",
  },
  gain_loss_ratio: {
    name: "Gain/loss ratio",
    text: "People gained per person lost. Below 1, the active base is shrinking.",
    formula: "(joined + reactivated) ÷ lapsed",
  },
  joined: { name: "Joined", text: "From never active to new or active between two dates." },
  retained: { name: "Retained", text: "New or active on both dates." },
  lapsed: { name: "Lapsed", text: "From new or active to dormant or churned between two dates." },
  newly_churned: { name: "Newly churned", text: "From dormant to churned between two dates." },
  came_and_lapsed: {
    name: "Came and lapsed",
    text: "From never active to dormant or churned between two dates: active only in between.",
  },
  inactivity_gap: {
    name: "Inactivity gap",
    text: "The days between two consecutive activity days of a person. The latest gap is still open.",
  },
  still_inactive: {
    name: "Still inactive",
    text: "Share of inactivity gaps longer than t days. Open gaps count for as long as they have lasted.",
    formula: "S(t) = ∏ (1 − ended at tᵢ ÷ at risk at tᵢ), over all tᵢ ≤ t",
    source: "Kaplan and Meier, 1958",
  },
  reactivation: {
    name: "Reactivation probability",
    text: "Probability that someone inactive for t days becomes active within the next H days.",
    formula: "1 − S(t + H) ÷ S(t)",
    source: "Kaplan–Meier estimate; CIs clustered by person",
  },
  at_risk: {
    name: "At risk",
    text: "Gaps that have lasted t days and could end on that day. Estimates from few gaps are unreliable.",
  },
  censored: {
    name: "Open (censored)",
    text: "Gaps that had not ended by the as-of date.",
  },
  interval: {
    name: "95% CI (confidence interval)",
    text: "In 95 of 100 such samples this range contains the true value. A difference whose CI includes 0 is not significant.",
  },
  share_interval: {
    name: "CI of a difference between two percentages",
    text: "95% CI of the second percentage minus the first, for two independent groups.",
    source: "Newcombe, 1998, method 10",
  },
  lift: {
    name: "Lift",
    text: "Observed ÷ expected. 2 means twice as many people as if the groups were unrelated.",
    formula: "people in both × all people ÷ (people in one × people in the other)",
  },
  p_value: {
    name: "p-value",
    text: "Probability of a difference at least this large if there were no real effect.",
  },
  minimum_detectable_effect: {
    name: "Minimum detectable effect",
    text: "The smallest effect a test of this size detects 8 times out of 10.",
    formula: "power 80%, significance 5%",
  },
  holdout: {
    name: "Holdout (control group)",
    text: "A control group: members deliberately not messaged. Assignment is fixed per person, so it is the same in every run.",
  },
  standing_holdout: {
    name: "Global holdout",
    text: "A random share of all people excluded from every export for a fixed period, usually a quarter, to measure the effect of all marketing.",
  },
  excluded: {
    name: "Excluded",
    text: "Not exported: no address, an invalid one, consent withdrawn, messaged too recently, on a list, or the same address twice.",
  },
  response_streak: {
    name: "Response streak",
    text: "Consecutive messages of a campaign that a person opened or clicked. The current streak ends with the latest message.",
  },
  visit: {
    name: "Visit",
    text: "A person's events with no pause longer than the visit timeout. It counts on the day it starts.",
  },
  revision: {
    name: "Revision",
    text: "A past figure that has changed since, because of late events or changed rules.",
  },
  as_of: { name: "As of", text: "At the end of that day in the workspace's time zone." },
  received_by: {
    name: "Using data received by",
    text: "The same figures, computed only from data received by the end of that day.",
  },
  active_share: {
    name: "Active within the last N days",
    text: "People with activity on at least one of the N days up to the as-of date.",
  },
  growth: {
    name: "Growth",
    text: "Change vs the previous period of the same length.",
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
