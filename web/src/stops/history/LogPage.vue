<script setup lang="ts">
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import type { Schemas } from '../../api/client'
import FormulaInput from '../../kit/FormulaInput.vue'
import NameBox from '../../kit/NameBox.vue'
import { useProject } from '../../rail/project'
import type { ViewPen } from '../../trend/pens'
import TrendView from '../../trend/TrendView.vue'
import LogFacts from './LogFacts.vue'
import LogSettings from './LogSettings.vue'
import type { LogAct, LogShown } from './useLogs'

// A log: how it stands, what it has, its spans, and what it is told to keep.
const props = defineProps<{ log: LogShown }>()
const emit = defineEmits<{ act: [act: LogAct, text?: string]; drop: [reason: string] }>()
const project = useProject()
const AT_FIRST = 6
const settings = ref(props.log.state === 'draft')
const works = computed(() => ['on', 'waiting', 'failing'].includes(props.log.state))

const chosen = shallowRef<ViewPen[]>()
watch(
  () => props.log.id,
  () => (chosen.value = undefined),
)
const pens = computed<ViewPen[]>({
  get: () => chosen.value ?? props.log.tags.slice(0, AT_FIRST).map((tag) => ({ tag: tag.id })),
  set: (list) => (chosen.value = list),
})
const drawn = computed(() => new Set(pens.value.map((p) => p.tag)))
function toggle(id: string) {
  pens.value = drawn.value.has(id) ? pens.value.filter((p) => p.tag !== id) : [...pens.value, { tag: id }]
}

const trend = useTemplateRef('trend')
const shown = shallowRef<Schemas['LogSpan']>()
/** Shows a span whole, with the courses of its own equipment. */
function show(s: Schemas['LogSpan']) {
  const own = props.log.tags.filter((tag) => tag.path.startsWith(s.ofPath + '.'))
  if (s.ofPath && own.length) chosen.value = own.slice(0, AT_FIRST).map((tag) => ({ tag: tag.id }))
  shown.value = s
  trend.value?.compare({ by: 0, name: '' })
  trend.value?.look({ from: s.from, to: Math.max(s.to || Date.now(), s.from + 60_000) })
}
/** Lays a span under the one that is shown; of other equipment, the same members of it. */
function compare(s: Schemas['LogSpan']) {
  const from = shown.value?.ofPath ?? ''
  const byPath = new Map(props.log.tags.map((tag) => [tag.path, tag.id]))
  const instead =
    s.ofPath && from && s.ofPath !== from
      ? new Map(
          props.log.tags.flatMap((tag) => {
            const other =
              tag.path.startsWith(from + '.') && byPath.get(s.ofPath + tag.path.slice(from.length))
            return other ? [[tag.id, other] as const] : []
          }),
        )
      : undefined
  const by = Math.round((trend.value?.range.from ?? 0) - s.from) || 1
  trend.value?.compare({ by, name: s.ofPath ? `${s.name} · ${s.ofPath}` : s.name, instead })
}
defineExpose({ drawn, toggle, show, compare })
</script>

<template>
  <div class="page">
    <div class="head">
      <LogFacts :log="log" />
      <span class="grow" />
      <template v-if="log.state !== 'draft' && log.state !== 'gone'">
        <button v-if="works" class="chip" @click="emit('act', 'stop')">{{ $t('log.act.stop') }}</button>
        <button v-else class="chip on" @click="emit('act', 'start')">{{ $t('log.act.start') }}</button>
        <button class="chip" :disabled="log.state !== 'on'" @click="emit('act', 'take')">
          {{ $t('log.act.take') }}
        </button>
        <NameBox
          :label="$t('log.act.mark')"
          :hint="$t('log.markName')"
          @named="emit('act', 'mark', $event)" />
        <button
          v-if="log.def?.out?.folder"
          class="chip"
          :disabled="log.export?.busy"
          @click="emit('act', 'export')">
          {{ $t('log.act.export') }}
        </button>
        <NameBox
          v-if="log.exported"
          :label="$t('log.act.clear')"
          :hint="$t('log.clearWhy')"
          @named="emit('act', 'clear', $event)" />
      </template>
      <NameBox
        v-if="log.state === 'gone'"
        :label="$t('log.act.drop')"
        :hint="$t('log.dropWhy')"
        @named="emit('drop', $event)" />
      <button
        v-if="log.def"
        class="chip"
        :class="{ on: settings }"
        :aria-pressed="settings"
        @click="settings = !settings">
        {{ $t('log.settings') }}
      </button>
    </div>
    <LogSettings v-if="settings && log.def" :log="log" :def="log.def" />
    <p v-else-if="log.state === 'gone'" class="quiet gone">{{ $t('log.gone') }}</p>
    <TrendView
      v-else
      :key="log.id"
      ref="trend"
      v-model:pens="pens"
      class="view"
      program="draft"
      :log="log.id"
      :project="project.id">
      <template v-if="!log.tags.length" #empty>{{ $t('log.noTags') }}</template>
      <template #condition="{ value, set }">
        <FormulaInput
          :label="$t('trend.find.condition')"
          :model-value="value"
          :placeholder="$t('trend.find.hint')"
          wants="bool"
          @update:model-value="set" />
      </template>
    </TrendView>
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--c-sheet);
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 16px;
  border-bottom: 1px solid var(--c-line);
}
.grow {
  flex: 1;
}
.view {
  flex: 1;
}
.gone {
  margin: auto;
  max-width: 420px;
}
</style>
