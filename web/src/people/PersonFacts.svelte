<script lang="ts">
  import { attributeField, attributeName, eventName, valueSaid } from "../lib/names";
  import type { Schemas } from "../lib/api/client";
  import { day, moment, shown } from "../lib/format";
  import { channelName } from "../lib/channels";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** What is known of one person: identifiers, attributes with their history, consent, messages. */
  let { about }: { about: Schemas["Person"] } = $props();

  /** A value with its unit or by its name. */
  function attributeSaid(name: string, value: unknown): string {
    return typeof value === "number" || typeof value === "string"
      ? valueSaid(attributeField(name), value)
      : shown(value);
  }

  const zone = $derived(workspace.info!.time_zone);
  const messages = $derived(about.event_types.filter((type) => type.not_activity));

  async function copy(text: string) {
    await navigator.clipboard.writeText(text);
    said(`Copied ${text}`);
  }
</script>

<h2>Identifiers</h2>
<table class="figures" data-testid="identifiers">
  <tbody>
    {#each about.identifiers as identifier (identifier.kind + identifier.value)}
      <tr>
        <td class="soft w-24">{identifier.kind}</td>
        <td class="break-all">
          {identifier.value}
          <span class="soft small block leading-5"
            >since {day(identifier.since)}, from {identifier.source ?? "a file"}</span
          >
        </td>
        <td class="number">
          <button
            class="soft cursor-pointer px-1 hover:text-(--accent)"
            aria-label="Copy {identifier.value}"
            title="Copy"
            onclick={() => copy(identifier.value)}
          >
            <svg
              width="13"
              height="13"
              viewBox="0 0 13 13"
              aria-hidden="true"
              fill="none"
              stroke="currentColor"
            >
              <path d="M4.5 4.5h8v8h-8z M8.5 4.5v-4h-8v8h4" />
            </svg>
          </button>
        </td>
      </tr>
    {:else}
      <tr><td class="soft">none</td></tr>
    {/each}
  </tbody>
</table>

<h2 class="mt-6">Attributes</h2>
{#if about.attributes.length}
  <table class="figures" data-testid="attributes">
    <thead><tr><th>Attribute</th><th>Value</th><th class="number">Since</th></tr></thead>
    <tbody>
      {#each about.attributes as attribute (attribute.name)}
        <tr>
          <td class="soft" title={attribute.name}>{attributeName(attribute.name)}</td>
          <td class="break-words">
            {attributeSaid(attribute.name, attribute.value)}
            {#if attribute.changes > 1}
              <details class="small">
                <summary class="soft cursor-pointer">{attribute.changes} past values</summary>
                {#each attribute.history.toReversed() as entry, index (index)}
                  <span class="block leading-5"
                    >{attributeSaid(attribute.name, entry.value)}
                    <span class="soft">{day(entry.at)}</span></span
                  >
                {/each}
              </details>
            {/if}
          </td>
          <td class="number small leading-6">{day(attribute.since)}</td>
        </tr>
      {/each}
    </tbody>
  </table>
{:else}
  <p class="soft">none</p>
{/if}

<h2 class="mt-6">Consent</h2>
{#if about.consents.length}
  <table class="figures" data-testid="consents">
    <tbody>
      {#each about.consents as consent (consent.channel)}
        <tr>
          <td class="soft w-24">{channelName(consent.channel)}</td>
          <td>
            <span class={consent.given ? "" : "text-(--alarm)"}>{consent.given ? "given" : "withdrawn"}</span>
            <span class="soft small block leading-5"
              >{[consent.evidence, `from ${consent.source}`].filter(Boolean).join(", ")}</span
            >
          </td>
          <td class="number small leading-6" title={moment(consent.since, zone)}>{day(consent.since)}</td>
        </tr>
      {/each}
    </tbody>
  </table>
{:else}
  <p class="soft">No consent is recorded for any channel.</p>
{/if}

{#if messages.length}
  <h2 class="mt-6">Messages</h2>
  <table class="figures">
    <tbody>
      {#each messages as type (type.name)}
        <tr>
          <td class="soft" title={type.name}>{eventName(type.name)}</td><td class="number">{type.count}</td>
          <td class="number small leading-6">last {day(type.last)}</td>
        </tr>
      {/each}
    </tbody>
  </table>
{/if}
