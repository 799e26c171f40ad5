<script lang="ts">
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
    else if (kind === "number" && Number.isFinite(field.valueAsNumber)) change(field.valueAsNumber);
    else if (kind === "date" && field.value) change(field.value);
  }
</script>

<input
  type={kind}
  step="any"
  class={kind === "number" ? "w-40 text-right" : "w-full"}
  aria-label={label}
  value={value ?? ""}
  oninput={(event) => typed(event.currentTarget)}
  onkeydown={(event) => event.key === "Enter" && close()}
/>
