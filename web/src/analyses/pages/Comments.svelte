<script lang="ts">
  import { untrack } from "svelte";
  import { answer, api, problemOf, type Problem } from "../../lib/api/client";
  import { Form } from "../../lib/form.svelte";
  import { moment } from "../../lib/format";
  import { workspace } from "../../lib/workspace.svelte";
  import RemoveButton from "../../ui/RemoveButton.svelte";
  import type { Page } from "./pages";

  /** What people say about a page. */
  let { page, reload }: { page: Page; reload: () => Promise<void> } = $props();

  const form = untrack(() => new Form(`comment-${page.id}`, { text: "" }));
  let refused = $state<Problem | null>(null);
  let busy = $state(false);

  async function attempt(work: () => Promise<unknown>) {
    if (busy) return;
    busy = true;
    refused = null;
    try {
      await work();
      await reload();
    } catch (error) {
      refused = problemOf(error);
    }
    busy = false;
  }

  const say = () =>
    attempt(async () => {
      const ask = { params: { path: { id: page.id } }, body: { text: form.fields.text.trim() } };
      await answer(api.POST("/pages/{id}/comments", ask));
      form.end();
    });
</script>

<section class="paperless mt-10" data-testid="comments">
  <h2>Comments</h2>
  <ul class="mt-1 flex flex-col gap-3">
    {#each page.comments as one (one.id)}
      <li>
        <p class="soft small flex flex-wrap items-center gap-x-3">
          <span>{one.author || "deleted user"}, {moment(one.written_at, workspace.info?.time_zone ?? "UTC")}</span
          >
          {#if one.mine}<RemoveButton
              name="the comment"
              remove={() =>
                attempt(() =>
                  answer(
                    api.DELETE("/pages/{id}/comments/{comment}", {
                      params: { path: { id: page.id, comment: one.id } },
                    }),
                  ),
                )}
            />{/if}
        </p>
        <p class="max-w-[46rem] whitespace-pre-line">{one.text}</p>
      </li>
    {/each}
  </ul>
  <form
    class="mt-3 flex flex-wrap items-end gap-3"
    aria-label="A comment"
    onsubmit={(event) => {
      event.preventDefault();
      void say();
    }}
  >
    <textarea
      class="w-full max-w-[46rem]"
      rows="2"
      maxlength="2000"
      aria-label="Your comment"
      placeholder="Add a comment"
      bind:value={form.fields.text}></textarea>
    <button class="quiet" disabled={busy || !form.fields.text.trim()}>Post comment</button>
    {#if refused}<span role="alert" class="text-(--alarm)">{refused.detail}</span>{/if}
  </form>
</section>
