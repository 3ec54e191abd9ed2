<script setup lang="ts">
import { ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FormulaInput from '../../kit/FormulaInput.vue'
import NameBox from '../../kit/NameBox.vue'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import TrendView from '../../trend/TrendView.vue'
import LogActs from '../../logs/LogActs.vue'
import LogFacts from '../../logs/LogFacts.vue'
import { useSpans } from '../../logs/useSpans'
import FillLog from './FillLog.vue'
import LogSettings from './LogSettings.vue'
import type { LogAct, LogShown } from '../../logs/useLogs'

// A log: how it stands, what it has, its spans, and what it is told to keep.
const props = defineProps<{ log: LogShown }>()
const emit = defineEmits<{ act: [act: LogAct, text?: string]; drop: [reason: string] }>()
const project = useProject()
const settings = ref(props.log.state === 'draft')
const filling = ref(false)
const notice = useNotice()
const { t } = useI18n({ useScope: 'global' })
/** Shows the time of what came in. */
function filled({ take, from, to }: Schemas['LogFilling']) {
  filling.value = false
  notice.say(t('log.fill.done', take))
  trend.value?.look({ from, to: Math.max(to, from + 60_000) })
}

const trend = useTemplateRef('trend')
const { pens, drawn, toggle, show, compare } = useSpans(() => props.log, trend)
defineExpose({ drawn, toggle, show, compare })
</script>

<template>
  <div class="page">
    <div class="head">
      <LogFacts :log="log" />
      <span class="grow" />
      <LogActs :log="log" @act="(what, text) => emit('act', what, text)" />
      <NameBox
        v-if="log.state === 'gone'"
        :label="$t('log.act.drop')"
        :hint="$t('log.dropWhy')"
        @named="emit('drop', $event)" />
      <button v-if="log.may && !['draft', 'gone'].includes(log.state)" class="chip" @click="filling = true">
        {{ $t('log.fill.open') }}
      </button>
      <button
        v-if="log.def"
        class="chip"
        :class="{ on: settings }"
        :aria-pressed="settings"
        @click="settings = !settings">
        {{ $t('log.settings') }}
      </button>
    </div>
    <FillLog v-if="filling" :log="log.id" @close="filling = false" @done="filled" />
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
      :title="log.name"
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
