<script setup lang="ts">
/** In the curve's corner: speed or position, and the state that is kept as B. */
import { useCompare } from '@/stores/compare'
import { useLayout } from '@/stores/layout'

const compare = useCompare()
const layout = useLayout()
const small = 'min-h-6 min-w-6 rounded px-1.5 text-[12px] font-semibold'
</script>

<template>
  <div class="absolute top-1 right-1 flex items-center gap-1 rounded bg-paper/90 text-ink">
    <button
      :class="small"
      class="hover:bg-paper-line"
      title="Speed, or where in the take the picture stands"
      @click="layout.curve = layout.curve === 'speed' ? 'position' : 'speed'"
    >
      {{ layout.curve === 'speed' ? 'Speed' : 'Position' }}
    </button>
    <template v-if="compare.kept">
      <span class="flex rounded border border-ink-muted" role="group" aria-label="Compare">
        <button
          :class="[small, compare.showing ? '' : 'bg-ink text-paper']"
          :aria-pressed="!compare.showing"
          title="What it is now (V)"
          @click="compare.showing = false"
        >
          A
        </button>
        <button
          :class="[small, compare.showing ? 'bg-ink text-paper' : '']"
          :aria-pressed="compare.showing"
          title="What was kept (V)"
          @click="compare.showing = true"
        >
          B
        </button>
      </span>
      <button :class="small" class="hover:bg-paper-line" @click="compare.takeB()">Take B</button>
      <button :class="small" class="hover:bg-paper-line" @click="compare.forget()">Forget B</button>
    </template>
    <button
      v-else
      :class="small"
      class="hover:bg-paper-line"
      title="Keep this state to compare with (B)"
      @click="compare.keep()"
    >
      Keep as B
    </button>
  </div>
</template>
