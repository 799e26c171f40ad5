<script lang="ts" module>
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["campaign"],
    phrases: { campaign: "Messages" },
    offers: [
      {
        about: "what",
        text: "who responded to or ignored messages…",
        ask: "Message response",
        options: () => [
          { value: "ignored", text: "ignored them" },
          { value: "opened", text: "opened them" },
          { value: "clicked", text: "clicked in them" },
          { value: "sent", text: "were sent them" },
          { value: "unsubscribed", text: "unsubscribed" },
        ],
        begin: (was) => ({ campaign: { was: was as "ignored", last: 5 } }),
        then: "campaign",
      },
    ],
  };
</script>

<script lang="ts">
  import type { Bounds, Campaign } from "../definition";
  import { SEEN_STATES, type State } from "../../lifecycle/states";
  import { workspace } from "../../lib/workspace.svelte";
  import Checks from "../editor/Checks.svelte";
  import { CHANNELS } from "../../lib/channels";
  import { topValues, type Found } from "../editor/values";
  import Whole from "../editor/Whole.svelte";

  /** What somebody made of which messages. */
  let { piece: campaign, put: change, close }: PhraseProps<Campaign> = $props();

  type Asked = NonNullable<Campaign["was"]> | "current" | "longest" | "mean" | "share";
  const ASKED: [Asked, string][] = [
    ["sent", "were sent a message"],
    ["opened", "opened it"],
    ["clicked", "clicked it"],
    ["ignored", "ignored it"],
    ["unsubscribed", "unsubscribed"],
    ["reactivated", "were reactivated after it"],
    ["current", "have a current response streak"],
    ["longest", "had a longest response streak"],
    ["mean", "have a mean response streak"],
    ["share", "have a response rate of"],
  ];
  /** In the list of channels, messages that have none. */
  const NO_CHANNEL = "\0";
  const IN_A_ROW: Asked[] = ["opened", "clicked", "ignored"];
  const uid = $props.id();
  const asked = $derived<Asked>(campaign.was ?? campaign.streak?.of ?? "share");
  const bounds = $derived<Bounds | undefined>(campaign.streak ?? campaign.share);
  const scale = $derived(campaign.share ? 100 : 1);
  let names = $state.raw<Found[]>([]);

  $effect(() => {
    const { received, campaign: property } = workspace.catalogue?.messaging ?? {};
    const known = workspace.catalogue?.event_types.find((type) => type.name === received);
    if (!received || !property || !known?.properties.some((field) => field.name === property)) return;
    void topValues({ event: received, property }).then((found) => (names = found));
  });

  function set(changes: Partial<Campaign>) {
    const next = { ...campaign, ...changes };
    change(Object.fromEntries(Object.entries(next).filter(([, value]) => value !== undefined)) as Campaign);
  }

  function choose(channel: string) {
    const none = channel === NO_CHANNEL;
    set({ channel: none ? undefined : channel || undefined, without_channel: none || undefined });
  }

  function ask(next: Asked) {
    const of = {
      was: undefined,
      streak: undefined,
      share: undefined,
      last: undefined,
      within_days: undefined,
    };
    if (next === "current" || next === "longest" || next === "mean")
      set({ ...of, streak: { of: next, at_least: 3 } });
    else if (next === "share") set({ ...of, share: { at_least: 0.5 } });
    else set({ ...of, was: next, ...(next === "ignored" ? { last: 5 } : {}) });
  }

  function bound(name: "at_least" | "less_than", text: string) {
    const value = text === "" ? undefined : Number(text) / scale;
    const next = { ...bounds, [name]: value };
    if (next.at_least === undefined && next.less_than === undefined) return;
    if (value === undefined) delete next[name];
    set(campaign.streak ? { streak: { ...next, of: campaign.streak.of } } : { share: next });
  }
</script>

<div class="flex flex-col gap-2">
  <label class="flex items-center gap-2">
    who
    <select
      aria-label="What they did"
      value={asked}
      onchange={(event) => ask(event.currentTarget.value as Asked)}
    >
      {#each ASKED as [key, text] (key)}<option value={key}>{text}</option>{/each}
    </select>
  </label>
  {#if bounds}
    {#each [["at_least", "at least"], ["less_than", "less than"]] as const as [name, text] (name)}
      <label class="flex items-center gap-2">
        {text}
        <input
          class="w-24"
          type="number"
          min="0"
          step="any"
          aria-label={text}
          value={bounds[name] === undefined ? "" : bounds[name] * scale}
          onchange={(event) => bound(name, event.currentTarget.value)}
        />
        {campaign.share ? "%" : "messages in a row"}
      </label>
    {/each}
  {/if}
  {#if IN_A_ROW.includes(asked)}
    <label class="flex items-center gap-2">
      <input
        type="checkbox"
        checked={campaign.last !== undefined}
        onchange={(event) => set({ last: event.currentTarget.checked ? 5 : undefined })}
      />
      each of the last
      {#if campaign.last !== undefined}
        <Whole label="How many" max={1000} value={campaign.last} change={(last) => set({ last })} {close} />
      {/if}
    </label>
  {/if}
  {#if asked === "reactivated"}
    <label class="flex items-center gap-2">
      within
      <Whole
        label="Days"
        value={campaign.within_days ?? 14}
        change={(within_days) => set({ within_days })}
        {close}
      /> days
    </label>
  {/if}
  <label class="flex items-center gap-2">
    campaign
    <input
      list="{uid}-names"
      placeholder={campaign.without_name ? "none" : "any"}
      disabled={campaign.without_name}
      value={campaign.name ?? ""}
      onchange={(event) => set({ name: event.currentTarget.value.trim() || undefined })}
    />
    <datalist id="{uid}-names">
      {#each names as { value } (value)}<option {value}></option>{/each}
    </datalist>
  </label>
  <label class="flex items-center gap-2">
    <input
      type="checkbox"
      checked={campaign.without_name ?? false}
      onchange={(event) =>
        set({
          without_name: event.currentTarget.checked || undefined,
          ...(event.currentTarget.checked ? { name: undefined } : {}),
        })}
    />
    Without a campaign
  </label>
  <label class="flex items-center gap-2">
    channel
    <select
      value={campaign.without_channel ? NO_CHANNEL : (campaign.channel ?? "")}
      onchange={(event) => choose(event.currentTarget.value)}
    >
      <option value="">any</option>
      <option value={NO_CHANNEL}>none</option>
      {#each CHANNELS as [key, text] (key)}<option value={key}>{text}</option>{/each}
    </select>
  </label>
  <fieldset>
    <legend class="small">Only messages received while in state</legend>
    <Checks
      none
      options={SEEN_STATES.map((state) => [state, state])}
      chosen={campaign.from ?? []}
      change={(from) => set({ from: from.length ? (from as State[]) : undefined })}
    />
  </fieldset>
</div>
