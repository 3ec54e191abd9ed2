<script setup lang="ts">
import { mdiPinOutline, mdiTrashCanOutline } from '@mdi/js'
import { computed, ref, shallowRef, toRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Refused, type Tag, type TagRow } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import SparkLine from '../../kit/SparkLine.vue'
import TagKept from './TagKept.vue'
import UsesList from '../../kit/UsesList.vue'
import TagTrail from '../../audit/TagTrail.vue'
import { useSession } from '../../api/session'
import { useTagValues } from '../../live/useTagValues'
import SystemFields from './SystemFields.vue'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import { useWatched } from '../../rail/watched'
import AddressField from './AddressField.vue'
import HoldBox from '../../tags/HoldBox.vue'
import { firstAddress } from '../../tags/newTag'
import TagField from '../../tags/TagField.vue'
import BehaviourEditor from './BehaviourEditor.vue'
import TagDefinition from './TagDefinition.vue'

const props = defineProps<{ id: string }>()
const emit = defineEmits<{ remove: [] }>()
const project = useProject()
const session = useSession()
const catalogue = useCatalogue()
const { t } = useI18n()
const row = shallowRef<TagRow>()
const refused = ref<Refused>()
const watched = useWatched()
const pins = toRef(watched, 'ids')
const values = useTagValues(
  toRef(project, 'id'),
  computed(() => [props.id]),
)
const value = computed(() => values.get(props.id))
const tag = computed(() => row.value && project.latest('tag', props.id, row.value.tag))
const findings = computed(() => project.findings.filter((f) => f.id === props.id))
const isNumber = computed(
  () => !!tag.value && tag.value.type !== 'BOOL' && !tag.value.type.startsWith('STRING'),
)

watch(
  () => project.versionOf('tag/' + props.id, 'device', 'type', 'equipment', 'folder', 'names', 'paths'),
  async () => {
    row.value = await ask(
      api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id: props.id } } }),
    ).catch(() => undefined)
  },
  { immediate: true },
)

const problem = (field: string) =>
  refused.value?.problem.refusal?.path === '/' + field ? refused.value.message : undefined
async function set(field: keyof Tag, v: unknown) {
  const value = v === '' || v === undefined ? undefined : v
  refused.value = await project.edit(t('tags.edited', { name: row.value!.path }), [
    { kind: 'tag', id: props.id, path: '/' + field, value },
  ])
}
async function setSource(source: Tag['source']) {
  const was = { ...tag.value! }
  const next: Partial<Tag> = {
    id: was.id,
    name: was.name,
    folder: was.folder,
    description: was.description,
    type: was.type,
    source,
    unit: was.unit,
    decimals: was.decimals,
    low: was.low,
    high: was.high,
    step: was.step,
    states: was.states,
    area: was.area,
  }
  if (source === 'device')
    Object.assign(next, {
      device: project.devices[0]?.id,
      address: firstAddress(project.devices[0], was.type),
      access: 'read',
    })
  if (source === 'system') {
    const clock = catalogue.system.find((x) => x.name === 'clock')
    Object.assign(next, {
      system: 'clock',
      type: clock?.type,
      decimals: undefined,
      low: undefined,
      high: undefined,
      states: undefined,
    })
  }
  if (source === 'computed')
    next.formula = was.type === 'BOOL' ? 'false' : was.type.startsWith('STRING') ? '""' : '0'
  refused.value = await project.edit(t('tags.edited', { name: row.value!.path }), [
    { kind: 'tag', id: props.id, path: '', value: next },
  ])
}
async function setSystem(part: Partial<Tag>) {
  refused.value = await project.edit(t('tags.edited', { name: row.value!.path }), [
    { kind: 'tag', id: props.id, path: '', value: { ...tag.value!, ...part } },
  ])
}
async function setDevice(id: string) {
  const was = project.devices.find((d) => d.id === tag.value!.device)
  const now = project.devices.find((d) => d.id === id)
  const ops = [{ kind: 'tag', id: props.id, path: '/device', value: id as unknown }]
  // An address of another protocol means nothing there.
  if (was?.protocol !== now?.protocol)
    refused.value = await project.edit(t('tags.edited', { name: row.value!.path }), [
      {
        kind: 'tag',
        id: props.id,
        path: '',
        value: {
          ...tag.value!,
          device: id,
          address: firstAddress(now, tag.value!.type),
          writeAddress: undefined,
          group: undefined,
        },
      },
    ])
  else refused.value = await project.edit(t('tags.edited', { name: row.value!.path }), ops)
}
const device = computed(() => project.devices.find((d) => d.id === tag.value?.device))
const modbus = computed(() => device.value?.protocol === 'modbus-tcp')
const limitTag = (side: 'low' | 'high') => tag.value?.[side === 'low' ? 'lowTag' : 'highTag']
const byTag = ref(false)
const types = ['BOOL', 'SINT', 'USINT', 'INT', 'UINT', 'DINT', 'UDINT', 'LINT', 'ULINT', 'REAL', 'LREAL']
const pin = () =>
  (watched.ids = pins.value.includes(props.id)
    ? pins.value.filter((x) => x !== props.id)
    : [...pins.value, props.id])
</script>

<template>
  <InspectorPane v-if="row && tag" :title="row.path" mono :note="tag.description">
    <template #tools>
      <button
        class="bare"
        :aria-label="$t('watch.pin')"
        :title="$t('watch.pin')"
        :aria-pressed="pins.includes(id)"
        @click="pin">
        <v-icon :icon="mdiPinOutline" size="18" :color="pins.includes(id) ? 'primary' : undefined" />
      </button>
      <button
        class="bare"
        :aria-label="$t('common.delete')"
        :title="$t('common.delete')"
        @click="emit('remove')">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </template>
    <div class="now" :class="{ veiled: value?.level === 'bad', held: value?.level === 'held' }">
      <span class="big mono">{{ !value || value.level === 'bad' ? '—' : value.text }}</span>
      <span class="quiet">{{ value?.level === 'bad' ? '' : tag.unit }}</span>
      <span class="grow" />
      <span class="quality" :class="value?.level">{{ value ? $t($word('quality', value.level)) : '' }}</span>
    </div>
    <div v-if="value?.reason" class="err">{{ value.reason }}</div>
    <HoldBox :id="id" :path="row?.path ?? ''" :now="value?.level === 'bad' ? null : (value?.text ?? null)" />
    <SparkLine v-if="isNumber || tag.type === 'BOOL'" :value="value" :width="284" :height="40" />
    <div v-for="f in findings" :key="f.rule + f.place" class="finding" :class="f.severity">
      {{ f.says }}
      <span class="quiet">{{ f.mend }}</span>
    </div>
    <div class="fields">
      <FieldText
        :label="$t('common.name')"
        mono
        :model-value="tag.name"
        :problem="problem('name')"
        @update:model-value="set('name', $event.trim())" />
      <FieldSelect
        :label="$t('tags.type')"
        :model-value="tag.type"
        :options="
          [...types, ...(tag.type.startsWith('STRING') ? [tag.type] : ['STRING(16)'])].map((v) => ({
            value: v,
            title: v,
          }))
        "
        @update:model-value="set('type', $event)" />
      <FieldText
        class="wide"
        :label="$t('common.description')"
        :model-value="tag.description"
        @update:model-value="set('description', $event)" />
      <FieldSelect
        :label="$t('tags.source')"
        :model-value="tag.source"
        :options="
          (['device', 'internal', 'computed', 'system'] as const).map((v) => ({
            value: v,
            title: $t($word('source', v)),
          }))
        "
        @update:model-value="setSource($event as Tag['source'])" />
      <template v-if="tag.source === 'device'">
        <FieldSelect
          :label="$t('tags.device')"
          :model-value="tag.device"
          :options="project.devices.map((d) => ({ value: d.id, title: d.name }))"
          @update:model-value="setDevice" />
        <AddressField
          v-if="device?.protocol !== 'standin'"
          :class="{ wide: !modbus }"
          :label="$t('tags.address')"
          :model-value="tag.address ?? ''"
          :type="tag.type"
          :device="tag.device ?? ''"
          :numbering="device?.numbering ?? 0"
          :problem="problem('address')"
          @update:model-value="set('address', $event)" />
        <FieldSelect
          :label="$t('tags.access')"
          :model-value="tag.access"
          :options="
            (['read', 'readwrite'] as const).map((v) => ({ value: v, title: $t($word('access', v)) }))
          "
          @update:model-value="set('access', $event)" />
        <AddressField
          v-if="tag.access === 'readwrite' && device?.protocol !== 'standin'"
          optional
          :class="{ wide: !modbus }"
          :label="$t('tags.writeAddress')"
          :model-value="tag.writeAddress ?? ''"
          :type="tag.type"
          :device="tag.device ?? ''"
          :numbering="device?.numbering ?? 0"
          :problem="problem('writeAddress')"
          @update:model-value="set('writeAddress', $event)" />
        <FieldSelect
          v-if="device?.groups?.length"
          :label="$t('tags.group')"
          :model-value="tag.group ?? ''"
          :options="[
            { value: '', title: $t('tags.asDevice') },
            ...device.groups.map((g) => ({ value: g.id, title: g.name })),
          ]"
          @update:model-value="set('group', $event)" />
      </template>
      <SystemFields v-if="tag.source === 'system'" :tag="tag" @set="setSystem" />
    </div>
    <TagDefinition :tag="tag" :value="value" :problem="problem" @set="set">
      <template v-if="byTag || tag.lowTag || tag.highTag" #limits>
        <span class="quiet">{{ $t('tags.limitByTag') }}</span>
      </template>
      <template v-if="isNumber && tag.source !== 'system'">
        <FieldCheck
          :label="$t('tags.limitByTag')"
          :model-value="byTag || !!tag.lowTag || !!tag.highTag"
          :disabled="!!tag.lowTag || !!tag.highTag"
          @update:model-value="byTag = $event" />
        <div v-if="byTag || tag.lowTag || tag.highTag" class="fields">
          <TagField
            :label="$t('tags.low')"
            :model-value="limitTag('low') ?? ''"
            @update:model-value="set('lowTag', $event)" />
          <TagField
            :label="$t('tags.high')"
            :model-value="limitTag('high') ?? ''"
            @update:model-value="set('highTag', $event)" />
        </div>
      </template>
    </TagDefinition>
    <BehaviourEditor
      v-if="tag.source === 'device' && row.behaviour"
      :own="!!tag.behaviour"
      :behaviour="row.behaviour"
      :problem="problem('behaviour')"
      @set="set('behaviour', $event)" />
    <FieldSelect
      :label="$t('tags.area')"
      :model-value="tag.area ?? ''"
      :options="[
        { value: '', title: $t('tags.asFolder') },
        ...(project.overview?.site.areas ?? []).map((a) => ({ value: a.id, title: a.name })),
      ]"
      @update:model-value="set('area', $event)" />
    <TagKept :id="id" :record="tag.record" :problem="problem" @set="set('record', $event)" />
    <TagTrail v-if="session.may(project.id, 'audit')" :project="project.id" :tag="id">
      <router-link
        :to="{ name: 'release', params: { project: project.id }, query: { tag: id, path: row.path } }">
        {{ $t('audit.wholeTrail') }}
      </router-link>
    </TagTrail>
    <UsesList :id="id" />
  </InspectorPane>
</template>

<style scoped>
.now {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
.now.held {
  border-left: 4px solid var(--c-ink);
  border-right: 4px solid var(--c-ink);
  padding: 0 8px;
}
.big {
  font-size: 28px;
  font-weight: 650;
}
.grow {
  flex: 1;
}
.quality {
  font-size: 12px;
  color: var(--c-quiet);
}
</style>
