<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'
import NameBox from '../kit/NameBox.vue'
import TimeRange from '../kit/TimeRange.vue'
import type { WordOf } from '../i18n/word'
import { everything, GROUPS, type TrailFilter } from './trailFilter'

/** What is looked for in the trail; filters are kept by name in this browser. */
const filter = defineModel<TrailFilter>({ required: true })
/** What stands where nothing was narrowed. */
const props = defineProps<{ all?: TrailFilter; areas?: { id: string; name: string }[] }>()
const all = () => props.all ?? everything()
const kept = useLocalStorage<{ name: string; filter: TrailFilter }[]>('rr-trail-filters', [])
/** On a narrow page the filters fold behind a button; a point says that some are in use. */
const open = ref(false)
const set = (part: Partial<TrailFilter>) => (filter.value = { ...filter.value, ...part })
const text = (e: Event) => (e.target as HTMLInputElement).value

const whats: WordOf<'what'>[] = [
  ...(['intent', 'lease', 'held', 'given-back', 'alarm', 'alarm-limit', 'event'] as const),
  ...(['recipe', 'delivery', 'log', 'journal-closed', 'trail-closed', 'exported', 'comment'] as const),
  ...(['sign-in', 'sign-out', 'sign-in-failed', 'handover', 'control'] as const),
  ...(['people', 'directory', 'panel-enrolled', 'vault'] as const),
  ...(['edit', 'release', 'project-brought', 'turn', 'loop-check', 'screen-check', 'tampered'] as const),
]
const groups = Object.keys(GROUPS) as (keyof typeof GROUPS)[]
const outcomes: WordOf<'outcome'>[] = [
  ...(['confirmed', 'differs', 'refused', 'unknown', 'unanswered', 'superseded', 'open'] as const),
]
const same = (a: TrailFilter) => JSON.stringify(a) === JSON.stringify(filter.value)
function keep(name: string) {
  kept.value = [...kept.value.filter((k) => k.name !== name), { name, filter: filter.value }]
}
const recall = (name: string) => (filter.value = kept.value.find((k) => k.name === name)?.filter ?? all())
const inUse = () => kept.value.find((k) => same(k.filter))?.name ?? ''
const forget = (name: string) => (kept.value = kept.value.filter((k) => k.name !== name))
</script>

<template>
  <button class="chip fold" :aria-expanded="open" @click="open = !open">
    {{ $t('alarm.narrow') }}
    <template v-if="!same(all())">·</template>
  </button>
  <div class="filters" :class="{ open }" role="search">
    <input
      class="plain"
      :value="filter.text"
      :placeholder="$t('audit.filter')"
      :aria-label="$t('audit.filter')"
      @input="set({ text: text($event) })" />
    <input
      class="plain"
      :value="filter.person"
      :placeholder="$t('audit.person')"
      :aria-label="$t('audit.person')"
      @input="set({ person: text($event) })" />
    <input
      class="plain mono path"
      :value="filter.path"
      :placeholder="$t('audit.path')"
      :aria-label="$t('audit.path')"
      @input="set({ path: text($event) })" />
    <select
      v-if="areas?.length"
      class="plain"
      :value="filter.area"
      :aria-label="$t('audit.area')"
      @change="set({ area: text($event) })">
      <option value="">{{ $t('audit.allAreas') }}</option>
      <option v-for="a in areas" :key="a.id" :value="a.id">{{ a.name }}</option>
    </select>
    <select
      class="plain"
      :value="filter.what"
      :aria-label="$t('audit.kind')"
      @change="set({ what: text($event) })">
      <option value="">{{ $t('audit.everything') }}</option>
      <option v-for="g in groups" :key="g" :value="'+' + g">{{ $t(`audit.group.${g}`) }}</option>
      <option v-for="w in whats" :key="w" :value="w">{{ $t($word('what', w)) }}</option>
    </select>
    <select
      class="plain"
      :value="filter.outcome"
      :aria-label="$t('audit.outcome')"
      @change="set({ outcome: text($event) })">
      <option value="">{{ $t('audit.anyOutcome') }}</option>
      <option v-for="o in outcomes" :key="o" :value="o">{{ $t($word('outcome', o)) }}</option>
    </select>
    <select
      class="plain"
      :value="filter.reason"
      :aria-label="$t('audit.reason')"
      @change="set({ reason: text($event) as TrailFilter['reason'] })">
      <option value="">{{ $t('audit.reasonAny') }}</option>
      <option value="given">{{ $t('audit.reasonGiven') }}</option>
      <option value="none">{{ $t('audit.reasonNone') }}</option>
    </select>
    <TimeRange :model-value="filter.range" @update:model-value="set({ range: $event })" />
    <select
      v-if="kept.length"
      class="plain"
      :value="inUse()"
      :aria-label="$t('audit.kept')"
      @change="recall(text($event))">
      <option value="">{{ $t('audit.kept') }}</option>
      <option v-for="k in kept" :key="k.name" :value="k.name">{{ k.name }}</option>
    </select>
    <template v-if="!same(all())">
      <button v-if="inUse()" class="chip" @click="forget(inUse())">
        {{ $t('audit.forget', { name: inUse() }) }}
      </button>
      <NameBox v-else :label="$t('audit.keep')" :hint="$t('audit.keepName')" @named="keep" />
      <button class="chip" @click="filter = all()">{{ $t('audit.clear') }}</button>
    </template>
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.filters > .plain {
  width: 150px;
}
.filters > .path {
  width: 200px;
}
.fold {
  display: none;
}
@media (max-width: 1100px) {
  .fold {
    display: inline-flex;
  }
  .filters:not(.open) {
    display: none;
  }
}
</style>
