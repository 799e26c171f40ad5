import { ask, type AnalysisName, type Answer, type Question } from "./api/ask";
import { Live } from "./live.svelte";
import { workspace } from "./workspace.svelte";

/** What each analysis was asked last, as text. */
export const lastAsked: Partial<Record<AnalysisName, string>> = {};

type Own<N extends AnalysisName> = Omit<Question<N>, "as_of" | "received_by" | "rule_set"> &
  Partial<Question<N>>;

/**
 * What an analysis answers, asked anew whenever the question, the dates, the ledger or the lifecycle rules change.
 * Without a question there is no answer.
 */
export class Asked<N extends AnalysisName> extends Live<Answer<N> | null> {
  constructor(name: N, question: () => Own<N> | null) {
    // As text, so that an address that changes elsewhere asks nothing twice.
    const text = $derived.by(() => {
      const own = question();
      return own && JSON.stringify({ ...workspace.asked, ...own });
    });
    super(async (signal, tell) => {
      if (!text) return null;
      lastAsked[name] = text;
      return ask(name, JSON.parse(text) as Question<N>, signal, tell);
    });
  }
}
