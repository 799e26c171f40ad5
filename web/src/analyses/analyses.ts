/** The analyses in the order in which they are offered, and the question each answers. */
export const ANALYSES = [
  { key: "trends", title: "Trends", asks: "How many people do something, how often, and how does it go?" },
  { key: "ranking", title: "Ranking", asks: "What do people do most, and how has that changed?" },
  {
    key: "next-events",
    title: "Next events",
    asks: "What do people do right after, or before, something?",
  },
  { key: "frequency", title: "Frequency", asks: "How often do people do something, and who does it more?" },
  { key: "visits", title: "Visits", asks: "How long and how often do people visit, and at what time?" },
  { key: "experience", title: "Experience", asks: "What do people do as they get to know us?" },
  {
    key: "retention",
    title: "Retention",
    asks: "Of people who did something, how many come back, and when?",
  },
  { key: "cohort-value", title: "Value", asks: "What have people brought in since they began?" },
  { key: "funnel", title: "Funnel", asks: "How many go from step to step, and where do they stop?" },
  { key: "change", title: "Change", asks: "Why did a number move, and who moved it?" },
  { key: "chance", title: "Chance", asks: "How likely is it that people come back, or that they lapse?" },
  { key: "overlap", title: "Overlap", asks: "Who is in several of my audiences, and who in one only?" },
  {
    key: "breakdown",
    title: "Breakdown",
    asks: "What is an audience made of, and how does it differ from another?",
  },
  {
    key: "before-after",
    title: "Before and after",
    asks: "What did people do before and after they did something for the first time, or around a date?",
  },
] as const;
