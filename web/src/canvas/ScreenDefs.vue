<script setup lang="ts">
// The hatching that means bad quality and nothing else.
</script>

<template>
  <defs>
    <pattern id="veil" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
      <rect width="7" height="7" class="veil-ground" />
      <line x1="0" y1="0" x2="0" y2="7" class="veil-line" />
    </pattern>
  </defs>
</template>

<style>
.veil-ground {
  fill: var(--c-field);
  fill-opacity: 0.55;
}
.veil-line {
  stroke: var(--c-ink);
  stroke-opacity: 0.55;
  stroke-width: 2.5;
}
.turning {
  animation: turning linear infinite;
  transform-origin: 0 0;
}
.unseen > path:first-child {
  animation: unseen 1s steps(1, end) infinite;
}
/* One that is outlined stays so at every moment. */
.unseen[data-alarm='returned'] {
  --pulse: var(--c-ink);
}
@keyframes unseen {
  50% {
    stroke: var(--pulse, transparent);
  }
}
.alternating > g {
  animation: alternating var(--blink-every, 1s) steps(1, end) infinite;
}
@keyframes alternating {
  50% {
    opacity: var(--blink-opacity);
    filter: var(--blink-filter);
  }
}
.flowing {
  animation: flowing 1.2s linear infinite;
}
.flowing.back {
  animation-direction: reverse;
}
@keyframes flowing {
  to {
    stroke-dashoffset: -24;
  }
}
@media (prefers-reduced-motion: reduce) {
  .turning,
  .flowing,
  .unseen > path:first-child {
    animation: none;
  }
}
@keyframes turning {
  to {
    transform: rotate(360deg);
  }
}
.screen-svg {
  font-family: var(--sans);
  user-select: none;
}
.screen-svg text {
  font-variant-numeric: tabular-nums;
}
</style>
