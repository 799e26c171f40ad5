<script lang="ts"></script>

<!-- The textures of the four states, once per page; pictures fill with url(#state-NAME). -->
<svg width="0" height="0" class="absolute" aria-hidden="true">
  <defs>
    <pattern id="state-new" width="6" height="6" patternUnits="userSpaceOnUse">
      <rect width="6" height="6" fill="var(--state-new)" />
      <circle cx="2" cy="2" r="1.1" fill="var(--paper)" />
    </pattern>
    <pattern id="state-active" width="6" height="6" patternUnits="userSpaceOnUse">
      <rect width="6" height="6" fill="var(--state-active)" />
    </pattern>
    <pattern
      id="state-dormant"
      width="6"
      height="6"
      patternUnits="userSpaceOnUse"
      patternTransform="rotate(45)"
    >
      <rect width="6" height="6" fill="var(--state-dormant)" />
      <rect width="1.4" height="6" fill="var(--paper)" opacity="0.75" />
    </pattern>
    <pattern
      id="state-churned"
      width="6"
      height="6"
      patternUnits="userSpaceOnUse"
      patternTransform="rotate(45)"
    >
      <rect width="6" height="6" fill="var(--state-churned)" />
      <rect width="1" height="6" fill="var(--paper)" opacity="0.7" />
      <rect width="6" height="1" fill="var(--paper)" opacity="0.7" />
    </pattern>
    <pattern id="state-never_active" width="6" height="6" patternUnits="userSpaceOnUse">
      <rect width="6" height="6" fill="var(--state-never_active)" />
    </pattern>
  </defs>
</svg>
