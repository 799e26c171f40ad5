<script lang="ts">
  import ContactLists from "./ContactLists.svelte";
  import Destinations from "./Destinations.svelte";
  import Holdouts from "./Holdouts.svelte";
</script>

<!-- What exports refer to: lists of whom not to contact, holdouts, and destinations. -->
<div class="min-h-60"><ContactLists /></div>
<div class="min-h-64"><Holdouts /></div>
<Destinations />
