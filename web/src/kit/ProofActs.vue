<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { nextTick, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { sentence } from '../api/client'
import { dayAndTime, moment } from './moment'
import type { WordOf } from '../i18n/word'

/** How a point stands. */
export interface Proof {
  result: WordOf<'check'>
  person?: string
  at?: string
  note?: string
  outdated?: boolean
}

/** Passing or failing one point after another, by buttons or by one key each. What was seen goes into the slot. */
const props = defineProps<{
  point: Proof
  of: string
  prove: (result: 'passed' | 'failed' | '', note: string) => Promise<void>
}>()
const emit = defineEmits<{ step: [by: number] }>()
const { t } = useI18n()
const note = ref('')
const said = ref('')
const field = ref<HTMLInputElement>()
watch(
  () => props.of,
  () => (note.value = said.value = ''),
)

async function say(result: 'passed' | 'failed' | '') {
  if (result === 'failed' && !note.value.trim()) {
    said.value = t('loop.needsNote')
    await nextTick()
    field.value?.focus()
    return
  }
  said.value = ''
  await props.prove(result, note.value).catch((e: unknown) => (said.value = sentence(e)))
}
useEventListener(
  'keydown',
  (e: KeyboardEvent) => {
    const el = e.target as HTMLElement
    if (e.ctrlKey || e.metaKey || e.altKey || ['INPUT', 'TEXTAREA', 'SELECT'].includes(el.tagName)) return
    const keys: Record<string, () => void> = {
      p: () => say('passed'),
      f: () => say('failed'),
      n: () => emit('step', 1),
      b: () => emit('step', -1),
      u: () => say(''),
    }
    const act = keys[e.key.toLowerCase()]
    if (!act) return
    e.preventDefault()
    e.stopPropagation()
    act()
  },
  { capture: true },
)
</script>

<template>
  <label class="noteline">
    {{ $t('loop.note') }}
    <input ref="field" v-model="note" class="plain" @keydown.enter="say('failed')" />
  </label>
  <div class="acts">
    <v-btn color="primary" @click="say('passed')">
      {{ $t('loop.passed') }}
      <kbd>P</kbd>
    </v-btn>
    <v-btn variant="outlined" @click="say('failed')">
      {{ $t('loop.failed') }}
      <kbd>F</kbd>
    </v-btn>
    <v-btn variant="text" @click="emit('step', 1)">
      {{ $t('loop.next') }}
      <kbd>N</kbd>
    </v-btn>
    <v-btn variant="text" @click="emit('step', -1)">
      {{ $t('loop.back') }}
      <kbd>B</kbd>
    </v-btn>
  </div>
  <div v-if="said" class="problem" role="status">{{ said }}</div>
  <div class="state">
    <strong>{{ $t($word('check', point.outdated ? 'outdated' : point.result)) }}</strong>
    <template v-if="point.person">
      · {{ point.person }}, {{ moment(point.at!, dayAndTime) }}
      <slot />
      <div v-if="point.note">{{ point.note }}</div>
      <div v-if="point.outdated" class="err">{{ $t('loop.outdated') }}</div>
    </template>
  </div>
</template>

<style scoped>
.noteline {
  font-size: 12px;
  color: var(--c-quiet);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
kbd {
  margin-left: 8px;
  border: 1px solid currentColor;
  border-radius: 3px;
  padding: 0 5px;
  font-size: 11px;
  opacity: 0.8;
}
.state {
  border-top: 1px solid var(--c-line);
  padding-top: 8px;
  font-size: 13px;
}
</style>
