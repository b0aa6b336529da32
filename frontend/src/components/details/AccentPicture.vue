<script setup lang="ts">
/** A small moving picture of what an accent does; it stands still for who wants no motion. */
import type { AccentKind } from '@/lib/accents'

defineProps<{ kind: AccentKind }>()
</script>

<template>
  <svg viewBox="0 0 64 24" class="h-6 w-16 overflow-hidden rounded-sm" aria-hidden="true" :data-kind="kind">
    <g class="seen">
      <rect class="sky" x="-8" y="-4" width="80" height="20" />
      <rect class="sea" x="-8" y="15" width="80" height="13" />
      <path v-if="kind === 'trail'" class="boat echo far" d="M24 17h16l-3 4h-10zM31 8v8h-6z" />
      <path v-if="kind === 'trail'" class="boat echo" d="M24 17h16l-3 4h-10zM31 8v8h-6z" />
      <path class="boat" d="M24 17h16l-3 4h-10zM31 8v8h-6z" />
    </g>
    <g v-if="kind === 'zoom-blur'" class="lines">
      <path d="M32 14 0 0M32 14 64 0M32 14 0 24M32 14 64 24M32 14 0 13M32 14 64 13" stroke="#ebe4d2" />
    </g>
    <g v-if="kind === 'letterbox'">
      <rect class="bar" width="64" height="5" fill="#000" />
      <rect class="bar low" y="19" width="64" height="5" fill="#000" />
    </g>
    <rect
      v-if="['flash', 'fade', 'dim', 'tint', 'strobe'].includes(kind)"
      class="over"
      width="64"
      height="24"
    />
  </svg>
</template>

<style scoped>
.sky {
  fill: #6d5b84;
}
.sea {
  fill: #2f6272;
}
.boat {
  fill: #dfab48;
}
.echo {
  opacity: 0.4;
}
.far {
  opacity: 0.2;
}
.over {
  fill: #fff;
  opacity: 0;
}
[data-kind='fade'] .over,
[data-kind='dim'] .over,
[data-kind='strobe'] .over {
  fill: #000;
}
[data-kind='tint'] .over {
  fill: #c7683f;
  mix-blend-mode: color;
}
.seen,
.lines,
.bar {
  transform-origin: 32px 14px;
}
.lines {
  stroke-width: 1.5;
  opacity: 0;
}
.bar {
  transform-origin: 32px 0;
}
.low {
  transform-origin: 32px 24px;
}
@media (prefers-reduced-motion: no-preference) {
  [data-kind='flash'] .over {
    animation: burst 1.8s infinite;
  }
  [data-kind='fade'] .over,
  [data-kind='tint'] .over {
    animation: swell 2.4s ease-in-out infinite;
  }
  [data-kind='dim'] .over {
    animation: build 1.8s infinite;
    --full: 0.55;
  }
  [data-kind='strobe'] .over {
    animation: burst 1.8s steps(2, jump-none) infinite;
  }
  [data-kind='drain'] .seen {
    animation: drain 1.8s infinite;
  }
  [data-kind='shake'] .seen {
    animation: shake 1.8s infinite;
  }
  [data-kind='punch'] .seen {
    animation: punch 1.8s infinite;
  }
  [data-kind='trail'] .boat {
    animation: along 1.8s ease-in-out infinite alternate;
  }
  [data-kind='trail'] .echo {
    animation-delay: 0.12s;
  }
  [data-kind='trail'] .far {
    animation-delay: 0.24s;
  }
  [data-kind='zoom-blur'] .lines {
    animation: burst 1.8s infinite;
  }
  .bar {
    animation: open 2.4s ease-in-out infinite;
  }
}
@media (prefers-reduced-motion: reduce) {
  .over,
  .lines {
    opacity: 0.5;
  }
}
@keyframes burst {
  0%,
  40% {
    opacity: 0;
  }
  41% {
    opacity: 0.9;
  }
  75%,
  100% {
    opacity: 0;
  }
}
@keyframes swell {
  0%,
  100% {
    opacity: 0;
  }
  50%,
  70% {
    opacity: 0.95;
  }
}
@keyframes build {
  0% {
    opacity: 0;
  }
  60% {
    opacity: var(--full);
  }
  61%,
  100% {
    opacity: 0;
  }
}
@keyframes drain {
  0% {
    filter: saturate(1);
  }
  60% {
    filter: saturate(0);
  }
  61%,
  100% {
    filter: saturate(1);
  }
}
@keyframes shake {
  0%,
  40%,
  90%,
  100% {
    transform: none;
  }
  42% {
    transform: translate(3px, -2px) rotate(3deg);
  }
  50% {
    transform: translate(-2.4px, 1.6px) rotate(-2.4deg);
  }
  60% {
    transform: translate(1.6px, -1px) rotate(1.6deg);
  }
  72% {
    transform: translate(-0.8px, 0.5px) rotate(-0.8deg);
  }
}
@keyframes punch {
  0%,
  40% {
    transform: none;
  }
  42% {
    transform: scale(1.35);
  }
  80%,
  100% {
    transform: none;
  }
}
@keyframes along {
  from {
    transform: translateX(-18px);
  }
  to {
    transform: translateX(18px);
  }
}
@keyframes open {
  0%,
  100% {
    transform: scaleY(0);
  }
  30%,
  60% {
    transform: scaleY(1);
  }
}
</style>
