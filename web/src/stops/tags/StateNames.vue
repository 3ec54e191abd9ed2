<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { useProject } from '../../rail/project'
import TypedInput from '../../kit/TypedInput.vue'

// Names of a tag's values, in every language of the project.
type State = Schemas['State']
const props = defineProps<{ states: State[]; problem?: string; differs?: string }>()
const emit = defineEmits<{ set: [states: State[]] }>()
const project = useProject()
const languages = computed(() => (project.overview?.site.languages ?? []).slice(1))

function change(i: number, next: Partial<State>) {
  emit(
    'set',
    props.states.map((s, k) => (k === i ? { ...s, ...next } : s)),
  )
}
function translate(i: number, language: string, text: string) {
  const texts = { ...(props.states[i]!.texts ?? {}) }
  if (text) texts[language] = text
  else delete texts[language]
  change(i, { texts: Object.keys(texts).length ? texts : undefined })
}
const add = () =>
  emit('set', [...props.states, { value: Math.max(-1, ...props.states.map((s) => s.value)) + 1, text: '?' }])
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
</script>

<template>
  <div class="states">
    <div class="head">
      <strong>{{ $t('tags.states') }}</strong>
      <span v-if="differs" class="quiet">{{ differs }}</span>
      <button class="bare" :aria-label="$t('tags.addState')" :title="$t('tags.addState')" @click="add">
        <v-icon :icon="mdiPlus" size="18" />
      </button>
    </div>
    <div
      v-for="(s, i) in states"
      :key="i"
      class="line"
      :style="{ gridTemplateColumns: `56px repeat(${1 + languages.length}, 1fr) 20px` }">
      <TypedInput
        class="plain mono"
        :value="s.value"
        :aria-label="$t('tags.stateValue')"
        @change="change(i, { value: Number(text($event)) })" />
      <TypedInput
        class="plain"
        :value="s.text"
        :aria-label="$t('tags.stateName')"
        @change="change(i, { text: text($event) })" />
      <TypedInput
        v-for="l in languages"
        :key="l"
        class="plain"
        :value="s.texts?.[l] ?? ''"
        :placeholder="l"
        :aria-label="$t('tags.stateNameIn', { language: l })"
        @change="translate(i, l, text($event))" />
      <button
        class="bare"
        :aria-label="$t('common.delete')"
        @click="
          emit(
            'set',
            states.filter((_, k) => k !== i),
          )
        ">
        <v-icon :icon="mdiClose" size="16" />
      </button>
    </div>
    <div v-if="problem" class="err" role="alert">{{ problem }}</div>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  margin-bottom: 4px;
}
.line {
  display: grid;
  gap: 6px;
  align-items: center;
  margin-bottom: 4px;
}
</style>
