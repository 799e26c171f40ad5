<script lang="ts">
  /** A phrase of a sentence that is chosen where it stands, underlined in the ink of its kind. */
  let {
    label,
    ink,
    value,
    options,
    choose,
  }: {
    label: string;
    ink: "who" | "what" | "when" | "state";
    /** Empty for nothing in particular. */
    value: string | number | boolean | null | undefined;
    /** Values and how they read. */
    options: readonly (readonly [string, string])[];
    choose: (value: string) => void;
  } = $props();
</script>

<select
  class="phrase ink-{ink}"
  aria-label={label}
  value={String(value ?? "")}
  onchange={(event) => choose(event.currentTarget.value)}
>
  {#each options as [key, text] (key)}<option value={key}>{text}</option>{/each}
</select>
