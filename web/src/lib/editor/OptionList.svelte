<script lang="ts">
  /** A list to choose one thing from; arrow keys and the first letters move, Enter or a click closes. */
  let {
    label,
    value,
    options,
    choose,
    close,
  }: {
    label: string;
    value: string;
    options: [string, string][];
    choose: (value: string) => void;
    close: () => void;
  } = $props();
</script>

<select
  class="w-full"
  size={Math.min(10, Math.max(3, options.length))}
  aria-label={label}
  {value}
  onchange={(event) => choose(event.currentTarget.value)}
  onclick={(event) => (event.target as Element).tagName === "OPTION" && close()}
  onkeydown={(event) => {
    if (event.key === "Enter") close();
  }}
>
  {#each options as [key, text] (key)}
    <option value={key}>{text}</option>
  {/each}
</select>
