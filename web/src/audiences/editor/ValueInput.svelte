<script lang="ts">
  import DateField from "../../ui/DateField.svelte";
  import type { FieldType, Value } from "../definition";

  /** One value of a type, typed in. */
  let {
    label,
    type,
    value,
    change,
    close,
  }: {
    label: string;
    type: FieldType;
    value: Value | undefined;
    change: (value: Value) => void;
    close: () => void;
  } = $props();

  const kind = $derived(type === "number" ? "number" : type === "date" || type === "time" ? "date" : "text");

  function typed(field: HTMLInputElement) {
    if (kind === "text") change(field.value);
    else if (Number.isFinite(field.valueAsNumber)) change(field.valueAsNumber);
  }
</script>

{#if kind === "date"}
  <DateField {label} value={String(value ?? "").slice(0, 10)} {change} />
{:else}
  <input
    type={kind}
    step="any"
    class={kind === "number" ? "w-40 text-right" : "w-full"}
    aria-label={label}
    value={value ?? ""}
    oninput={(event) => typed(event.currentTarget)}
    onkeydown={(event) => event.key === "Enter" && close()}
  />
{/if}
