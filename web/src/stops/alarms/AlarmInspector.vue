<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed, ref, toRef } from 'vue'
import { useI18n } from 'vue-i18n'
import AlarmTab from '../../alarms/AlarmTab.vue'
import { isLimited, KINDS, PRIORITIES, type Standing } from '../../alarms/useAlarms'
import { type Refused, type Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import SparkLine from '../../kit/SparkLine.vue'
import { useTagValues } from '../../live/useTagValues'
import { useProject } from '../../rail/project'
import TagField from '../../tags/TagField.vue'

/** One alarm, or several at once: what differs among them shows empty and is left alone until it is set. */
type Row = Schemas['AlarmRow']
const props = defineProps<{ rows: Row[]; now?: Standing }>()
const emit = defineEmits<{ remove: [] }>()
const project = useProject()
const { t } = useI18n()
const refused = ref<Refused>()
const one = computed(() => (props.rows.length === 1 ? props.rows[0] : undefined))
const limited = computed(() => props.rows.every((r) => isLimited(r.kind)))
const kind = computed(() => same<string>((r) => r.kind))
const values = useTagValues(
  toRef(project, 'id'),
  computed(() => (one.value?.tag ? [one.value.tag] : [])),
)
const findings = computed(() => project.findings.filter((f) => one.value && f.id === one.value.id))

/** What all have in common; undefined where they differ. */
function same<T>(of: (r: Row) => T): T | undefined {
  const first = of(props.rows[0]!)
  return props.rows.every((r) => of(r) === first) ? first : undefined
}
const differ = (of: (r: Row) => unknown) =>
  same(of) === undefined && props.rows.some((r) => of(r) !== undefined) ? t('inspector.differs') : ''
async function set(path: string, value: unknown) {
  refused.value = await project.edit(
    t('alarms.edited', { n: props.rows.length }),
    props.rows.map((r) => ({
      kind: 'alarm',
      id: r.id,
      path: '/' + path,
      value: value === '' || value === false ? undefined : value,
    })),
  )
}
// A guide that is not there yet is made whole.
const guide = (name: 'cause' | 'consequence' | 'action' | 'respond' | 'severity', value: unknown) =>
  project
    .edit(
      t('alarms.edited', { n: props.rows.length }),
      props.rows.map((r) => ({
        kind: 'alarm',
        id: r.id,
        path: '/guidance',
        value: { ...r.guidance, [name]: value || undefined },
      })),
    )
    .then((r) => (refused.value = r))
const number = (path: string) => (v: string) =>
  set(path, v.trim() === '' ? undefined : Number(v.replace(',', '.')))
const problem = (path: string) =>
  refused.value?.problem.refusal?.path === '/' + path ? refused.value.message : undefined
const numbers = computed<('onDelay' | 'offDelay' | 'deadband' | 'window')[]>(
  () =>
    [
      'onDelay',
      'offDelay',
      ...(limited.value ? ['deadband'] : []),
      ...(kind.value === 'rate' || kind.value === 'discrepancy' ? ['window'] : []),
    ] as ('onDelay' | 'offDelay' | 'deadband' | 'window')[],
)
const areas = computed(() => [
  { value: '', title: t('alarms.asSignal') },
  ...(project.overview?.site.areas ?? []).map((a) => ({ value: a.id, title: a.name })),
])
</script>

<template>
  <InspectorPane :title="one ? one.name : $t('alarms.many', { n: rows.length })" :note="one?.path">
    <template #tools>
      <button
        class="bare"
        :aria-label="$t('common.delete')"
        :title="$t('common.delete')"
        @click="emit('remove')">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </template>
    <div v-if="now" class="now">
      <span v-if="now.state === 'normal'" class="quiet">{{ $t('alarm.state.normal') }}</span>
      <AlarmTab
        v-else
        :priority="now.priority"
        :state="now.state"
        :text="$t($word('alarm.state', now.state))" />
      <span class="mono">
        {{ values.get(one!.tag)?.level === 'bad' ? '—' : values.get(one!.tag)?.text }} {{ one!.unit }}
      </span>
      <span v-if="now.bad" class="quiet">{{ $t('alarm.bad') }}</span>
    </div>
    <SparkLine
      v-if="one && limited && values.get(one.tag)"
      :value="values.get(one.tag)"
      :width="284"
      :height="40" />
    <p v-if="one?.gear" class="quiet">
      {{ $t('gear.ofType') }}
      <router-link :to="{ name: 'equipment', params: { project: project.id, id: one.gear.type } }">
        {{ one.typeName }}
      </router-link>
      ·
      {{
        one.gear.differs?.length
          ? $t('gear.mayDiffer', { list: one.gear.differs.join(', ') })
          : $t('gear.nothingDiffers')
      }}
      <template v-if="one.gear.own?.length">. {{ $t('gear.own') }}: {{ one.gear.own.join(', ') }}</template>
    </p>
    <div v-for="f in findings" :key="f.rule + f.place" class="finding" :class="f.severity">
      {{ f.says }}
      <span class="quiet">{{ f.mend }}</span>
    </div>
    <div v-if="refused" class="problem">{{ refused.message }}</div>
    <div class="fields">
      <FieldText
        v-if="one"
        class="wide"
        :label="$t('common.name')"
        :model-value="one.name"
        :problem="problem('name')"
        @update:model-value="set('name', $event.trim())" />
      <TagField
        v-if="one && one.kind !== 'formula'"
        class="wide"
        :label="$t('alarms.signal')"
        :model-value="one.tag"
        @update:model-value="set('tag', $event)" />
      <FieldSelect
        :label="$t('alarms.kind')"
        :model-value="kind"
        :options="KINDS.map((v) => ({ value: v, title: $t($word('alarms.kinds', v)) }))"
        @update:model-value="set('kind', $event)" />
      <FieldSelect
        :label="$t('alarm.column.priority')"
        :model-value="same((r) => r.priority)"
        :options="PRIORITIES.map((v) => ({ value: v, title: $t($word('alarm.priority', v)) }))"
        @update:model-value="set('priority', $event)" />
    </div>
    <FormulaInput
      v-if="limited"
      :label="$t('alarms.limit')"
      wants="number"
      :model-value="same((r) => r.limit) ?? ''"
      :placeholder="differ((r) => r.limit)"
      @update:model-value="set('limit', $event)" />
    <FormulaInput
      v-if="kind === 'deviation' || kind === 'discrepancy'"
      :label="$t(kind === 'deviation' ? 'alarms.setPoint' : 'alarms.feedback')"
      :model-value="same((r) => r.target) ?? ''"
      @update:model-value="set('target', $event)" />
    <FormulaInput
      v-if="kind === 'formula'"
      :label="$t('alarms.condition')"
      wants="bool"
      :model-value="same((r) => r.condition) ?? ''"
      @update:model-value="set('condition', $event)" />
    <div class="fields">
      <FieldText
        v-for="n in numbers"
        :key="n"
        :label="$t($word('alarms', n))"
        mono
        :model-value="same((r) => r[n])"
        :placeholder="differ((r) => r[n])"
        :problem="problem(n)"
        @update:model-value="number(n)($event)" />
      <FieldSelect
        v-if="kind === 'deviation' || kind === 'rate'"
        :label="$t('alarms.side')"
        :model-value="same((r) => r.side ?? '')"
        :options="
          (['', 'above', 'below'] as const).map((v) => ({
            value: v,
            title: $t($word('alarms.sides', v || 'both')),
          }))
        "
        @update:model-value="set('side', $event)" />
      <FieldCheck
        v-if="kind === 'state'"
        :label="$t('alarms.inverted')"
        :model-value="same((r) => r.inverted)"
        @update:model-value="set('inverted', $event)" />
      <FieldCheck
        :label="$t('alarms.latch')"
        :model-value="same((r) => r.latch)"
        @update:model-value="set('latch', $event)" />
      <FieldCheck
        v-if="kind !== 'quality'"
        :label="$t('alarms.onBad')"
        :model-value="same((r) => r.onBad)"
        @update:model-value="set('onBad', $event)" />
      <FieldCheck
        :label="$t('alarms.noAck')"
        :model-value="same((r) => r.noAck)"
        @update:model-value="set('noAck', $event)" />
    </div>
    <FieldText
      class="wide"
      lines
      :label="$t('alarm.column.text')"
      :hint="$t('alarms.messageHint')"
      :model-value="same((r) => r.message)"
      :placeholder="differ((r) => r.message)"
      :problem="problem('message')"
      @update:model-value="set('message', $event)" />
    <FieldText
      class="wide"
      :label="$t('alarms.gone')"
      :model-value="same((r) => r.gone)"
      :placeholder="differ((r) => r.gone)"
      :problem="problem('gone')"
      @update:model-value="set('gone', $event || undefined)" />
    <div class="fields">
      <FieldSelect
        :label="$t('alarm.column.area')"
        :model-value="same((r) => r.area ?? '')"
        :options="areas"
        @update:model-value="set('area', $event)" />
      <FieldText
        :label="$t('alarms.group')"
        :model-value="same((r) => r.group)"
        :placeholder="differ((r) => r.group)"
        @update:model-value="set('group', $event.trim())" />
      <FieldText
        :label="$t('alarms.class')"
        :model-value="same((r) => r.class)"
        :placeholder="differ((r) => r.class)"
        @update:model-value="set('class', $event.trim())" />
      <FieldText
        :label="$t('alarms.shelve')"
        mono
        :hint="$t('alarms.shelveHint')"
        :model-value="same((r) => r.shelveMinutes)"
        :problem="problem('shelveMinutes')"
        @update:model-value="number('shelveMinutes')($event)" />
      <FieldSelect
        class="wide"
        :label="$t('alarms.screen')"
        :model-value="same((r) => r.screen ?? '')"
        :options="[
          { value: '', title: '—' },
          ...project.screens.filter((s) => !s.role).map((s) => ({ value: s.id, title: s.name })),
        ]"
        @update:model-value="set('screen', $event)" />
    </div>
    <FormulaInput
      :label="$t('alarms.suppress')"
      wants="bool"
      :model-value="same((r) => r.suppress) ?? ''"
      @update:model-value="set('suppress', $event)" />
    <FieldText
      v-if="rows.some((r) => r.suppress)"
      class="wide"
      :label="$t('alarms.suppressWhy')"
      :model-value="same((r) => r.suppressWhy)"
      @update:model-value="set('suppressWhy', $event)" />
    <h3>{{ $t('alarms.rationalise') }}</h3>
    <div class="fields">
      <FieldText
        v-for="g in ['cause', 'consequence', 'action'] as const"
        :key="g"
        class="wide"
        lines
        :label="$t($word('alarm.guidance', g))"
        :model-value="same((r) => r.guidance?.[g])"
        :placeholder="differ((r) => r.guidance?.[g])"
        @update:model-value="guide(g, $event)" />
      <FieldText
        mono
        :label="$t('alarms.respondMinutes')"
        :model-value="same((r) => r.guidance?.respond)"
        @update:model-value="guide('respond', Number($event) || undefined)" />
      <FieldSelect
        :label="$t('alarms.severity')"
        :model-value="same((r) => r.guidance?.severity ?? '')"
        :options="
          (['', 'minor', 'major', 'severe'] as const).map((v) => ({
            value: v,
            title: v ? $t($word('alarms.severities', v)) : '—',
          }))
        "
        @update:model-value="guide('severity', $event)" />
      <button
        v-if="one?.suggested && one.suggested !== one.priority"
        class="chip"
        @click="set('priority', one.suggested)">
        {{ $t('alarms.suggested', { priority: $t($word('alarm.priority', one.suggested)) }) }}
      </button>
      <FieldCheck
        :label="$t('alarms.reviewed')"
        :model-value="same((r) => r.reviewed)"
        @update:model-value="set('reviewed', $event)" />
      <FieldCheck
        v-if="limited"
        :label="$t('alarms.atDesk')"
        :model-value="same((r) => r.atDesk)"
        @update:model-value="set('atDesk', $event)" />
      <FieldCheck
        :label="$t('alarms.off')"
        :model-value="same((r) => r.off)"
        @update:model-value="set('off', $event)" />
    </div>
  </InspectorPane>
</template>

<style scoped>
.now {
  display: flex;
  align-items: center;
  gap: 10px;
  font-size: 18px;
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 10px;
}
.wide {
  grid-column: 1 / -1;
}
h3 {
  font-size: 13px;
  margin: 8px 0 0;
}
</style>
