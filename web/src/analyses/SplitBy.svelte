<script lang="ts" module>
  import type { Schemas } from "../lib/api/client";
  import { isWhole } from "../lib/parameters";
  import { fieldType, offeredTypes } from "../audiences/editor/values";

  /** What people are told apart by, as the API takes it. */
  export type By = Schemas["Split"];
  /** The name in the address of what they are told apart by besides. */
  export const BESIDES = "by_too";

  /** As it stands in the address: "attribute:plan", "as_of:plan", "state", "property:most_frequent:ride_ended:quarter". */
  export function by(text: string | null): Schemas["SingleSplit"] | null {
    const [kind, ...rest] = (text ?? "").split(":");
    if (kind === "state") return { state: true };
    if (kind === "profile_type") return { profile_type: true };
    if (kind === "grouping" && isWhole(rest[0] ?? "")) return { grouping: Number(rest[0]) };
    if ((kind === "attribute" || kind === "then") && rest[0]) return { attribute: rest.join(":") };
    if (kind === "as_of" && rest[0]) return { attribute: rest.join(":"), as_of: true };
    const [take, event, ...of] = rest;
    return kind === "property" && take && event && of.length
      ? { property: { take, event, of: of.join(":") } }
      : null;
  }
</script>

<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { groupings } from "../groupings/groupings.svelte";
  import { put } from "./codec";
  import { day } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  let {
    value,
    choose,
    none = null,
    phrase = false,
    twice = false,
    events = [],
    eventsAre = "Event property",
    eventsBy = "event",
    overTime = false,
    also = [],
  }: {
    value: string;
    choose: (value: string) => void;
    none?: string | null;
    /** Properties by which events may be told apart instead of people; these stand there as "event:km". */
    events?: Schemas["Field"][];
    /** Under which words these are offered. */
    eventsAre?: string;
    /** What stands before them in the address. */
    eventsBy?: string;
    /** Whether attributes are looked at when something happened, unless those of the as-of date are asked for. */
    overTime?: boolean;
    /** What else there is to choose, with its words. */
    also?: readonly (readonly [string, string])[];
    /** Whether it stands in a sentence. */
    phrase?: boolean;
    /** Whether people may be told apart by two things at once; the second stands in the address, see {@link BESIDES}. */
    twice?: boolean;
  } = $props();

  const TAKES = [
    ["most_frequent", "most frequent"],
    ["first", "first"],
    ["last", "last"],
  ] as const;
  /** With its spaces, which a block would lose at its beginning. */
  const AND = " and ";
  /** Where only one time is looked at, an attribute is as of then; kept addresses may say "then:plan". */
  const offered = (text: string) => text.replace(overTime ? /^then:/ : /^(?:then|as_of):/, "attribute:");
  /** Groups that the address names and that have been deleted, or never were. */
  const gone = $derived(
    value.startsWith("grouping:") && !groupings.list.some(({ id }) => value === `grouping:${id}`),
  );
  const attributes = $derived(
    (workspace.catalogue?.attributes ?? []).filter(
      (field) => fieldType({ attribute: field.name }) !== "list",
    ),
  );
  const properties = $derived(
    offeredTypes().flatMap((type) =>
      type.properties.map((field) => ({ event: type.name, noun: type.noun, ...field })),
    ),
  );
</script>

{#snippet ofPeople()}
  <option value="state">state</option>
  <option value="profile_type">profile type</option>
  {#if groupings.list.length || gone}
    <optgroup label="Custom groups">
      {#if gone}<option {value}>deleted groups</option>{/if}
      {#each groupings.list as { id, name } (id)}<option value="grouping:{id}">{name}</option>{/each}
    </optgroup>
  {/if}
{/snippet}
{#snippet named()}
  <optgroup label={overTime ? "Attribute (value at the time)" : "Attributes"}>
    {#each attributes as field (field.name)}<option value="attribute:{field.name}"
        >{field.display}{overTime ? " (at the time)" : ""}</option
      >{/each}
  </optgroup>
  {#if overTime}
    {@const asOf = day(workspace.asOf)}
    <optgroup label="An attribute as of {asOf}">
      {#each attributes as field (field.name)}<option value="as_of:{field.name}"
          >{field.display} as of {asOf}</option
        >{/each}
    </optgroup>
  {/if}
{/snippet}
<select
  class={phrase ? "phrase ink-state" : ""}
  aria-label="Split by"
  value={offered(value)}
  onchange={(event) => choose(event.currentTarget.value)}
>
  {#if none !== null}<option value="">{none}</option>{/if}
  {@render ofPeople()}
  {#each also as [key, text] (key)}<option value={key}>{text}</option>{/each}
  {@render named()}
  {#if events.length}
    <optgroup label={eventsAre}>
      {#each events as field (field.name)}<option value="{eventsBy}:{field.name}">{field.display}</option
        >{/each}
    </optgroup>
  {/if}
  {#each TAKES as [take, word] (take)}
    <optgroup label="Property: {word} value">
      {#each properties as field (`${field.event} ${field.name}`)}
        <option value="property:{take}:{field.event}:{field.name}"
          >{word} {field.display} of {field.noun}</option
        >
      {/each}
    </optgroup>
  {/each}
</select>{#if twice && value}{AND}<select
    class="phrase ink-state"
    aria-label="And split by"
    value={offered(address.get(BESIDES) ?? "")}
    onchange={(event) => put({ [BESIDES]: event.currentTarget.value || null, hidden: null, row: null })}
  >
    <option value="">no second split</option>
    {@render ofPeople()}
    {@render named()}
  </select>
{/if}
