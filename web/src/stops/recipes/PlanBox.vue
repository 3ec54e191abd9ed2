<script setup lang="ts">
import type { Schemas } from '../../api/client'
import PathText from '../../kit/PathText.vue'
import PreviewBox from '../../kit/PreviewBox.vue'

// A dialogue over an edit in bulk, line by line.
defineProps<{
  title: string
  why: string
  plan: Schemas['Plan'] | undefined
  problem: string
  busy: boolean
  made: number
  act: string
}>()
const emit = defineEmits<{ apply: []; close: [] }>()
const from: Record<string, 'book.there' | 'book.ignored'> = { same: 'book.there', ignored: 'book.ignored' }
</script>

<template>
  <PreviewBox
    :title="title"
    :why="why"
    :problem="problem"
    :busy="busy"
    :ready="!!made && !plan?.problems"
    :act="act"
    @apply="emit('apply')"
    @close="emit('close')">
    <slot />
    <template #preview>
      <table v-if="plan?.lines.length" class="grid">
        <tbody>
          <tr v-for="(l, i) in plan.lines" :key="i">
            <td class="mono"><PathText :path="l.path" /></td>
            <td class="mono">{{ l.address }}</td>
            <td>{{ l.text }}</td>
            <td v-if="l.problem" class="err">{{ l.problem }}</td>
            <td v-else-if="l.used" class="warn">{{ $t('bulk.used', { path: l.used }) }}</td>
            <td v-else class="quiet">{{ l.from && from[l.from] ? $t(from[l.from]!) : '' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </PreviewBox>
</template>

<style scoped>
.err,
.warn {
  white-space: normal;
}
</style>
