<script lang="ts" module>
  import type { Condition } from "./condition";

  export const condition: Condition = {
    keys: ["seen"],
    phrases: {},
    offers: [
      {
        about: "who",
        text: "who were first seen …",
        ask: "When",
        options: () => [
          { value: "7", text: "in the last 7 days" },
          { value: "30", text: "in the last 30 days" },
          { value: "90", text: "in the last 90 days" },
        ],
        begin: (days) => ({ seen: { window: { last_days: Number(days) } } }),
        then: "window",
      },
    ],
  };
</script>

<!-- Its only phrase is a window, which all conditions edit alike. -->
