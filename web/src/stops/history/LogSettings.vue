<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Refused, Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import { moment } from '../../kit/moment'
import { typedNumber } from '../../kit/number'
import { useProject } from '../../rail/project'
import TagField from '../../tags/TagField.vue'
import AlarmField from './AlarmField.vue'
import LogLine from './LogLine.vue'
import LogLines from './LogLines.vue'
import LogOut from './LogOut.vue'
import { asTime, inMs } from './times'
import type { LogShown } from '../../logs/useLogs'
import { word } from '../../i18n/word'

// What a log keeps, when, while and for how long, and what cuts it into spans.
const props = defineProps<{ log: LogShown; def: Schemas['Log'] }>()
const project = useProject()
const { t } = useI18n({ useScope: 'global' })
const refused = ref<Refused>()
const how = computed(() => props.def.how)
const keep = computed(() => props.def.keep)
const hours = computed(() => props.def.while)
const findings = computed(() => project.findings.filter((f) => f.kind === 'log' && f.id === props.log.id))
const ways = computed(() =>
  (['changes', 'intervals', 'moments'] as const).map((value) => ({
    value,
    title: t(word('log.way', value)),
  })),
)
const DAYS = [1, 2, 3, 4, 5, 6, 7]
// The first of that month was a Monday.
const dayName = (d: number) => moment(new Date(2024, 0, d), { weekday: 'short' })

async function set(path: string, value: unknown) {
  refused.value = await project.edit(t('log.edited', { name: props.def.name }), [
    { kind: 'log', id: props.log.id, path, value: value === '' ? undefined : value },
  ])
}
const problem = (path: string) =>
  refused.value?.problem.refusal?.path === path ? refused.value.message : undefined
/** A number of the log, or nothing where the field is left empty. */
const number = (path: string) => (text: string) =>
  set(path, typedNumber(text) ?? (text.trim() ? text : undefined))
const time = (path: string) => (text: string) => set(path, text.trim() ? (inMs(text) ?? text) : undefined)
/** Another way has an interval of its own. */
const way = (value: string) =>
  set('/how', value === 'intervals' ? { way: value, every: how.value.every || 60_000 } : { way: value })
const day = (d: number, on: boolean) => {
  const all = hours.value.days?.length ? hours.value.days : DAYS
  const next = on ? [...all, d].sort() : all.filter((x) => x !== d)
  return set('/while/days', next.length === 7 || !next.length ? undefined : next)
}
const isDay = (d: number) => !hours.value.days?.length || hours.value.days.includes(d)
const clocks = (text: string) =>
  set('/how/at', text.trim() ? text.split(/[\s,;]+/).filter(Boolean) : undefined)
const remove = () =>
  project.edit(t('log.removed', { name: props.def.name }), [{ kind: 'log', id: props.log.id, path: '' }])
</script>

<template>
  <div class="settings">
    <div v-for="f in findings" :key="f.rule + f.place" class="finding" :class="f.severity">
      {{ f.says }}
      <span class="quiet">{{ f.mend }}</span>
    </div>
    <div v-if="refused" class="problem" role="alert">{{ refused.message }}</div>
    <div class="columns">
      <section>
        <h2>{{ $t('log.what') }}</h2>
        <FieldText
          :label="$t('common.name')"
          :model-value="def.name"
          :problem="problem('/name')"
          @update:model-value="set('/name', $event.trim())" />
        <FieldText
          :label="$t('log.purpose')"
          :model-value="def.note"
          @update:model-value="set('/note', $event)" />
        <LogLines :lines="log.lines ?? []" @picks="set('/picks', $event)" />
      </section>
      <section>
        <h2>{{ $t('log.how') }}</h2>
        <FieldSelect
          :label="$t('log.takes')"
          :model-value="how.way"
          :options="ways"
          @update:model-value="way" />
        <template v-if="how.way === 'changes'">
          <FieldText
            :label="$t('log.band')"
            :model-value="how.band"
            :placeholder="$t('log.bandUsual')"
            @update:model-value="number('/how/band')($event)" />
          <FieldText
            :label="$t('log.least')"
            :model-value="asTime(how.least)"
            placeholder="500 ms"
            :problem="problem('/how/least')"
            @update:model-value="time('/how/least')($event)" />
          <FieldText
            :label="$t('log.longest')"
            :model-value="asTime(how.longest)"
            placeholder="10 min"
            :problem="problem('/how/longest')"
            @update:model-value="time('/how/longest')($event)" />
        </template>
        <FieldText
          v-else-if="how.way === 'intervals'"
          :label="$t('log.interval')"
          :model-value="asTime(how.every)"
          :hint="$t('log.marks')"
          :problem="problem('/how/every')"
          @update:model-value="time('/how/every')($event)" />
        <template v-else>
          <FormulaInput
            :label="$t('log.rises')"
            :model-value="how.rises ?? ''"
            wants="bool"
            @update:model-value="set('/how/rises', $event)" />
          <AlarmField :label="$t('log.alarm')" :name="log.alarm ?? ''" @set="set('/how/alarm', $event)" />
          <FieldText
            :label="$t('log.at')"
            :model-value="(how.at ?? []).join(', ')"
            placeholder="06:00, 14:00, 22:00"
            :problem="refused?.problem.refusal?.path?.startsWith('/how/at') ? refused.message : undefined"
            @update:model-value="clocks" />
        </template>
        <h2>{{ $t('log.while') }}</h2>
        <FieldCheck
          :label="$t('log.starts')"
          :model-value="!!hours.starts"
          @update:model-value="set('/while/starts', $event || undefined)" />
        <FormulaInput
          :label="$t('log.holds')"
          :model-value="hours.holds ?? ''"
          :placeholder="$t('log.always')"
          wants="bool"
          @update:model-value="set('/while/holds', $event)" />
        <div class="days" role="group" :aria-label="$t('log.days')">
          <button
            v-for="d in DAYS"
            :key="d"
            class="chip"
            :class="{ on: isDay(d) }"
            :aria-pressed="isDay(d)"
            @click="day(d, !isDay(d))">
            {{ dayName(d) }}
          </button>
        </div>
        <div class="fields">
          <FieldText
            :label="$t('log.from')"
            :model-value="hours.from"
            placeholder="00:00"
            @update:model-value="
              set('/while', {
                ...hours,
                from: $event || undefined,
                until: $event ? hours.until || '23:59' : undefined,
              })
            " />
          <FieldText
            :label="$t('log.until')"
            :model-value="hours.until"
            placeholder="24:00"
            @update:model-value="
              set('/while', {
                ...hours,
                until: $event || undefined,
                from: $event ? hours.from || '00:00' : undefined,
              })
            " />
        </div>
      </section>
      <section>
        <h2>{{ $t('log.keeps') }}</h2>
        <div class="fields">
          <FieldText
            :label="$t('log.keepDays')"
            :model-value="keep.days"
            :problem="problem('/keep/days')"
            @update:model-value="number('/keep/days')($event)" />
          <FieldText
            :label="$t('log.keepMB')"
            :model-value="keep.mb"
            :placeholder="$t('log.noBound')"
            :problem="problem('/keep/mb')"
            @update:model-value="number('/keep/mb')($event)" />
        </div>
        <FieldText
          :label="$t('log.keepCount')"
          :model-value="keep.count"
          :placeholder="$t('log.noBound')"
          :problem="problem('/keep/count')"
          @update:model-value="number('/keep/count')($event)" />
        <FieldSelect
          :label="$t('log.whenFull')"
          :model-value="keep.stops ? 'stops' : 'oldest'"
          :options="[
            { value: 'oldest', title: $t('log.oldest') },
            { value: 'stops', title: $t('log.stops') },
          ]"
          @update:model-value="set('/keep/stops', $event === 'stops' || undefined)" />
        <h2>{{ $t('log.spans') }}</h2>
        <p class="quiet">{{ $t('log.spansAbout') }}</p>
        <LogLine
          v-if="log.by"
          :line="log.by"
          @every="set('/spans', { type: $event.type, member: $event.member })"
          @drop="set('/spans', {})" />
        <template v-else>
          <TagField
            v-if="!def.spans.holds"
            :label="$t('log.spanTag')"
            model-value=""
            @update:model-value="$event && set('/spans', { tag: $event })" />
          <FormulaInput
            :label="$t('log.spanHolds')"
            :model-value="def.spans.holds ?? ''"
            wants="bool"
            @update:model-value="set('/spans', $event ? { holds: $event } : {})" />
        </template>
        <LogOut :out="def.out ?? {}" :cut="log.cut" :problem="problem" @set="set('/out', $event)" />
        <button class="chip away" @click="remove">
          <v-icon :icon="mdiTrashCanOutline" size="16" />
          {{ $t('log.remove') }}
        </button>
      </section>
    </div>
  </div>
</template>

<style scoped>
.settings {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 10px 16px 24px;
}
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 24px;
}
section {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
h2 {
  margin: 6px 0 0;
  font-size: 15px;
}
p {
  margin: 0;
  font-size: 13px;
}
.days {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.away {
  align-self: start;
  margin-top: 16px;
}
</style>
