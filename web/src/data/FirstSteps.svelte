<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import { Live } from "../lib/live.svelte";
  import { session } from "../lib/session.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** What is left to do from the first file to the first export; goes when all is done, or when it is dismissed. */
  const DISMISSED = "estrel-first-steps-dismissed";

  let dismissed = $state(localStorage.getItem(DISMISSED) === "true");
  const kept = new Live(async (signal) => {
    const [audiences, exports] = await Promise.all([
      answer(api.GET("/audiences", { params: { query: { as_of: workspace.asOf } }, signal })),
      answer(api.GET("/exports", { signal })),
    ]);
    return { audiences: audiences.audiences.length > 0, exports: exports.exports.length > 0 };
  });
  const steps = $derived([
    ["Import events", "/data", (workspace.info?.data?.events ?? 0) > 0],
    [
      "Define activity, and when people become dormant or churned",
      "/lifecycle/rules?edit=first",
      workspace.ruleSets.some((row) => row.id !== null),
    ],
    ["Create an audience", "/audiences", kept.data?.audiences ?? false],
    ["Export it", "/exports", kept.data?.exports ?? false],
  ] as const);
  const left = $derived(steps.filter(([, , done]) => !done).length);

  function dismiss() {
    dismissed = true;
    localStorage.setItem(DISMISSED, "true");
  }
</script>

{#if kept.data && left && !dismissed && !workspace.info?.demo && session.may("analyst")}
  <section
    class="mt-4 border-l-4 border-(--accent) pl-4"
    aria-labelledby="first-steps"
    data-testid="first-steps"
  >
    <h2 id="first-steps" class="flex items-baseline gap-4">
      First steps
      <button class="small font-sans font-normal underline" onclick={dismiss}>Hide this</button>
    </h2>
    <ol>
      {#each steps as [text, path, done] (path)}
        <li class={done ? "soft" : ""}>
          <span aria-hidden="true">{done ? "✓" : "○"}</span><span class="sr-only"
            >{done ? "Done:" : "To do:"}</span
          >
          {#if done}{text}{:else}<a href={address.to(path)}>{text}</a>{/if}
        </li>
      {/each}
    </ol>
  </section>
{/if}
