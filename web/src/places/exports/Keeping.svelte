<script lang="ts">
  import ContactLists from "./ContactLists.svelte";
  import Folders from "./Folders.svelte";
  import Holdouts from "./Holdouts.svelte";
</script>

<!-- What plans refer to: lists of whom not to contact, holdouts, and folders as destinations. -->
<ContactLists />
<Holdouts />
<Folders />
