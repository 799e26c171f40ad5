<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { Asked } from "../../lib/asked.svelte";
  import { answer, api } from "../../lib/api/client";
  import { Resource } from "../../lib/resource.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import SplitBy from "../SplitBy.svelte";
  import ComparedName from "../../audiences/ComparedName.svelte";
  import { comparison } from "../../audiences/comparison.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put, Reader } from "../codec";
  import OverlapStrips from "./OverlapStrips.svelte";

  /** How the audiences compared by overlap, combination by combination. */
  const read = $derived.by(() => {
    const reader = new Reader();
    return { split: reader.split("by"), base: reader.text("base"), left: reader.left };
  });
  const audiences = $derived(comparison.active);
  const overlap = new Asked("overlap", () =>
    audiences.length > 1 ? { audiences, by: read.split, ...(read.base ? { base: read.base } : {}) } : null,
  );
  const bases = new Resource(async (signal) => {
    const list = await answer(api.GET("/audiences", { params: { query: workspace.dates }, signal }));
    return list.audiences.map((row) => [String(row.id), `people in “${row.name}”`] as const);
  });
</script>

<AnalysisPage
  asked={overlap}
  title="Audience overlap"
  name="overlap"
  left={read.left}
  tables={{ combinations: { choosing: true }, pairs: {} }}
>
  {#snippet question()}
    How {#each audiences as id, index (id)}{index === 0
        ? ""
        : index === audiences.length - 1
          ? " and "
          : ", "}<ComparedName {id} />{:else}audiences{/each} overlap among <PhraseSelect
      label="Base"
      ink="who"
      value={read.base ?? ""}
      options={[
        ["", "all people"],
        ["customers", "customers"],
        ["known", "customers and contacts"],
        ...(bases.data ?? []),
      ]}
      choose={(base) => put({ base: base || null })}
    />, split by <SplitBy
      phrase
      value={read.split ? (address.get("by") ?? "") : ""}
      none="nothing"
      choose={(value) => put({ by: value || null })}
    />
  {/snippet}
  {#snippet picture(answer)}
    <OverlapStrips
      data={answer.picture}
      positions={answer.picture.ids.map((id) => comparison.position(id))}
    />
  {/snippet}
  {#snippet instead()}
    <p class="mt-4">Choose two to six audiences to see how they overlap.</p>
    <p class="mt-2">
      Go to <a href={address.to("/audiences")}>Audiences</a> and click Compare on two to six of them.
    </p>
  {/snippet}
</AnalysisPage>
