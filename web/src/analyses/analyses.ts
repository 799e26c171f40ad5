/** The analyses in the order in which they are offered, and the question each answers. */
export const ANALYSES = [
  {
    key: "trends",
    title: "Trends",
    asks: "How many people do something, how often, and how is it changing?",
  },
  { key: "ranking", title: "Event ranking", asks: "What do people do most, and how has that changed?" },
  {
    key: "next-events",
    title: "Paths",
    asks: "What do people do right before or after an event?",
  },
  { key: "frequency", title: "Frequency", asks: "How often does each person do something?" },
  { key: "visits", title: "Visits", asks: "How often, how long and when do people visit?" },
  { key: "experience", title: "Tenure", asks: "How does behaviour change from the first visit on?" },
  {
    key: "retention",
    title: "Retention",
    asks: "Of people who did something, how many return, and when?",
  },
  {
    key: "cohort-value",
    title: "Lifetime value",
    asks: "How much value does each cohort generate over time, and when does it pay back?",
  },
  { key: "funnel", title: "Funnel", asks: "How many people complete each step, and where do they drop off?" },
  { key: "change", title: "Change drivers", asks: "Why did a metric change, and which groups drove it?" },
  { key: "chance", title: "Propensity", asks: "How likely are people to be reactivated or to lapse?" },
  { key: "overlap", title: "Overlap", asks: "How much do my audiences overlap?" },
  {
    key: "breakdown",
    title: "Breakdown",
    asks: "Who is in an audience, and how does it differ from another?",
  },
  {
    key: "before-after",
    title: "Before and after",
    asks: "How did behaviour change after a first event, or after a date?",
  },
] as const;
