<script lang="ts">
  import { address } from "../lib/address.svelte";
</script>

<p class="says mt-8">Nobody is known here yet.</p>
<p class="mt-3 max-w-xl">
  Bring in event files, and profiles if you have them: CSV or JSON Lines, plain or gzip. The base, its people
  and your audiences appear as soon as the first file is in.
</p>
<p class="mt-4"><a class="act" href={address.to("/data")}>Import files</a></p>
