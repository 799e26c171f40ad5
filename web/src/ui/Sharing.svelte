<script lang="ts" module>
  export type Belonging = {
    id?: number | null;
    name: string;
    owner: string | null;
    mine: boolean;
    private: boolean;
  };

  /** Whether something is to be seen in a list of mine, of what others share, or of all. */
  export function belongs(row: Belonging, whose: string | null): boolean {
    return whose === "mine" ? row.mine : whose === "shared" ? !row.private : true;
  }
</script>

<script lang="ts">
  import { answer, api, problemOf } from "../lib/api/client";
  import { session } from "../lib/session.svelte";
  import { said } from "../lib/toasts.svelte";

  /** Whose something is and who sees it, with a way to change that for whoever may. */
  let {
    place,
    row,
    changed,
  }: {
    place: "audiences" | "rule-sets" | "exports";
    row: Belonging;
    changed: () => Promise<void>;
  } = $props();

  const may = $derived(session.may(row.mine ? "analyst" : "administrator"));
  const whose = $derived(row.mine ? "yours, " : row.owner ? `${row.owner}, ` : "");

  async function toggle() {
    const ask = { params: { path: { id: row.id! } }, body: { private: !row.private } };
    try {
      if (place === "audiences") await answer(api.PUT("/audiences/{id}/sharing", ask));
      else if (place === "rule-sets") await answer(api.PUT("/rule-sets/{id}/sharing", ask));
      else await answer(api.PUT("/exports/{id}/sharing", ask));
      await changed();
    } catch (error) {
      said(problemOf(error).detail);
    }
  }
</script>

<span class="soft small"
  >{whose}{row.private ? "private" : "shared"}{#if may && row.id}<button
      class="ml-2 cursor-pointer underline decoration-(--rule-strong) underline-offset-3 hover:text-(--accent)"
      aria-label="{row.private ? 'Share' : 'Keep private'}: {row.name}"
      onclick={toggle}>{row.private ? "share" : "Make private"}</button
    >{/if}</span
>
