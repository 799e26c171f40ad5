import { numbersOf } from "../audiences/editor/values";
import { address } from "../lib/address.svelte";
import type { Schemas } from "../lib/api/client";
import { workspace } from "../lib/workspace.svelte";

/** What is measured of people after they were exported or held back. */
export const MEASURES = [
  ["back", "share reactivated"],
  ["active", "share active"],
  ["state", "share new or active at the end"],
  ["did", "share who"],
  ["sum", "average per person:"],
] as const;
export type Measure = (typeof MEASURES)[number][0];
export type Outcome = Schemas["Metric"] | Schemas["LifecycleOutcome"];

const LIFECYCLE = { back: "came_back", active: "was_active", state: "is_active" } as const;

/** As it stands in the address, or else what is usual where it is asked. */
export class Measured {
  readonly #usual: Measure;
  readonly #types = $derived(workspace.catalogue?.event_types ?? []);
  readonly measure = $derived.by(() => (address.get("measure") ?? this.#usual) as Measure);
  /** Of sums the first type that has numbers. */
  readonly event = $derived.by(() => {
    const paid = this.measure === "did" ? null : this.#types.find(({ name }) => numbersOf(name).length);
    return address.get("event") ?? (paid ?? this.#types[0])?.name;
  });
  readonly numbers = $derived(numbersOf(this.event));
  readonly property = $derived(address.get("property") ?? this.numbers[0]);
  readonly metric = $derived.by(() => this.of(this.measure));

  constructor(usual: Measure) {
    this.#usual = usual;
  }

  get types() {
    return this.#types;
  }

  /** A measure with the event and property there are. */
  of(measure: Measure): Outcome {
    if (measure in LIFECYCLE) return { lifecycle: LIFECYCLE[measure as keyof typeof LIFECYCLE] };
    const { event, property } = this;
    const sum = measure === "sum" && property;
    return { ...(event ? { event } : {}), ...(sum ? { measure: "sum", property } : { measure: "people" }) };
  }
}
