<script lang="ts">
  import { day, plural } from "../lib/format";
  import { session } from "../lib/session.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import NoteForm from "../notes/NoteForm.svelte";
  import { KINDS, notes, type Kind, type Note } from "../notes/notes.svelte";

  /** What is noted on dates, what happened by itself, and which of it pictures show. */
  let writing = $state(false);
  let changed = $state<Note | null>(null);
  const rows = $derived(notes.all.toReversed());
</script>

<p class="says mt-3 max-w-[46rem]">
  Notes appear on every chart over time, for example a release, a price change or an outage. Exports and rule
  changes are added automatically.
</p>
<div class="mt-3 flex flex-wrap items-center gap-x-6 gap-y-2">
  <span class="flex flex-wrap gap-4" role="group" aria-label="Shown on charts">
    {#each Object.entries(KINDS) as [kind, name] (kind)}
      <label class="flex items-center gap-1"
        ><input
          type="checkbox"
          checked={!notes.hidden.includes(kind as Kind)}
          onchange={() => notes.switched(kind as Kind)}
        />
        {name}</label
      >
    {/each}
  </span>
  {#if session.may("analyst") && !writing && !changed}
    <button class="quiet" onclick={() => (writing = true)}>Add note</button>
  {/if}
</div>
{#if writing || changed}
  {#key changed?.id}
    <NoteForm
      date={workspace.asOf}
      note={changed}
      close={() => {
        writing = false;
        changed = null;
      }}
    />
  {/key}
{/if}
{#if rows.length}
  <p class="soft small mt-4">
    {plural(notes.list.length, "note")}, {plural(notes.happened.length, "other date")}
  </p>
  <table class="figures mt-1 w-auto!" data-testid="notes-table">
    <thead><tr><th>Date</th><th>Note</th><th>Visibility</th></tr></thead>
    <tbody>
      {#each rows as { date, text, kind, note }, index (index)}
        <tr>
          <td class="whitespace-nowrap tabular-nums">{day(date)}</td>
          <td>
            {#if note && session.may("analyst")}<button
                class="cursor-pointer text-left underline"
                onclick={() => (changed = note)}>{text}</button
              >{:else}{text}{/if}
          </td>
          <td class="soft"
            >{note
              ? note.private
                ? "private"
                : (note.owner ?? "shared")
              : kind === "export"
                ? "an export"
                : "rules"}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
{:else}<p class="soft mt-4">No notes yet.</p>{/if}
