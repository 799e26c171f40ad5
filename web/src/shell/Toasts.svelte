<script lang="ts">
  import { Toast } from "@skeletonlabs/skeleton-svelte";
  import { toaster } from "../lib/toasts.svelte";
</script>

<Toast.Group {toaster}>
  {#snippet children(toast)}
    <Toast {toast} class="panel mb-20 flex w-[26rem] sm:mb-10 max-w-[90vw] items-center gap-4 py-2">
      <Toast.Message class="grow">
        <Toast.Title>{toast.title}</Toast.Title>
      </Toast.Message>
      {#if toast.action}<Toast.ActionTrigger class="quiet">{toast.action.label}</Toast.ActionTrigger>{/if}
      <Toast.CloseTrigger class="quiet" aria-label="Close this message">×</Toast.CloseTrigger>
    </Toast>
  {/snippet}
</Toast.Group>
