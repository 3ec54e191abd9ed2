<script setup lang="ts">
import { mdiConnection, mdiTrashCanOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, ask, type Device, type LinkStatus, type Refused, type Schemas, sentence } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import { clock, moment } from '../../kit/moment'
import UsesList from '../../kit/UsesList.vue'
import { useProject } from '../../rail/project'

const props = defineProps<{ device: Device; link: LinkStatus | undefined }>()
const project = useProject()
const router = useRouter()
const { t } = useI18n()
const refused = ref<Refused>()
const test = ref<Schemas['DeviceTest']>()
const testing = ref(false)
const findings = computed(() => project.findings.filter((f) => f.id === props.device.id && f.severity !== 'note'))
const problem = (field: string) => (refused.value?.problem.refusal?.path === '/' + field ? refused.value.message : undefined)

let edit: Promise<unknown> = Promise.resolve()
async function set(field: keyof Device, value: unknown) {
  const mine = project.edit(t('devices.edited', { name: props.device.name }), [{ kind: 'device', id: props.device.id, path: '/' + field, value, was: props.device[field] }])
  edit = mine
  refused.value = await mine
}
const number = (field: keyof Device) => (v: string) => set(field, Number(v))

async function run() {
  testing.value = true
  test.value = undefined
  try {
    // A field that was just left is still on its way: the test is of what stands there then.
    await edit
    await project.refresh()
    test.value = await ask(api.POST('/api/projects/{project}/devices/test', { params: { path: project.path }, body: project.devices.find((d) => d.id === props.device.id) ?? props.device }))
  } catch (e) {
    test.value = { ok: false, roundTripMs: 0, problem: sentence(e) }
  } finally {
    testing.value = false
  }
}
async function remove() {
  const { id, name } = props.device
  await router.push({ name: 'devices', params: { project: project.id } })
  await project.edit(t('devices.deleted', { name }), [{ kind: 'device', id, path: '' }])
}
const orders = ['ABCD', 'CDAB', 'BADC', 'DCBA']
</script>

<template>
  <InspectorPane :title="device.name" :note="$t('devices.modbus')">
    <template #tools><button class="bare" :aria-label="$t('common.delete')" :title="$t('common.delete')" @click="remove"><v-icon :icon="mdiTrashCanOutline" size="18" /></button></template>
    <div v-for="f in findings" :key="f.rule" class="finding" :class="f.severity">{{ f.says }} <span class="quiet">{{ f.mend }}</span></div>
    <div class="fields">
      <FieldText class="wide" :label="$t('common.name')" mono :model-value="device.name" :problem="problem('name')" @update:model-value="set('name', $event)" />
      <FieldText :label="$t('devices.host')" mono :model-value="device.host" :problem="problem('host')" @update:model-value="set('host', $event.trim())" />
      <FieldText :label="$t('devices.port')" mono :model-value="device.port" :problem="problem('port')" @update:model-value="number('port')($event)" />
      <FieldText :label="$t('devices.unit')" mono :model-value="device.unit" :problem="problem('unit')" @update:model-value="number('unit')($event)" />
      <FieldSelect :label="$t('devices.order')" :model-value="device.order" :options="orders.map((o) => ({ value: o, title: $t('order.' + o) }))" @update:model-value="set('order', $event)" />
      <FieldSelect :label="$t('devices.numbering')" :model-value="String(device.numbering)" :options="[{ value: '0', title: $t('devices.from0') }, { value: '1', title: $t('devices.from1') }]" @update:model-value="number('numbering')($event)" />
      <FieldText :label="$t('devices.poll')" mono :model-value="device.poll" :problem="problem('poll')" @update:model-value="number('poll')($event)" />
      <FieldText :label="$t('devices.timeout')" mono :model-value="device.timeout" :problem="problem('timeout')" @update:model-value="number('timeout')($event)" />
      <FieldText :label="$t('devices.gap')" mono :model-value="device.maxGap" :problem="problem('maxGap')" @update:model-value="number('maxGap')($event)" />
      <FieldText :label="$t('devices.block')" mono :model-value="device.maxBlock" :problem="problem('maxBlock')" @update:model-value="number('maxBlock')($event)" />
      <FieldCheck :label="$t('devices.off')" :model-value="device.off" @update:model-value="set('off', $event)" />
    </div>
    <div class="test">
      <v-btn variant="outlined" color="primary" :prepend-icon="mdiConnection" :loading="testing" @click="run">{{ $t('devices.test') }}</v-btn>
      <div v-if="test?.ok" role="status" class="good">{{ $t('devices.answers', { ms: test.roundTripMs.toFixed(1) }) }}</div>
      <div v-else-if="test" role="alert" class="problem">{{ test.problem }}</div>
    </div>
    <h2>{{ $t('devices.link') }}</h2>
    <dl v-if="link" class="facts">
      <dt>{{ $t('devices.state') }}</dt><dd>{{ $t('link.' + link.state) }}</dd>
      <dt>{{ $t('devices.since') }}</dt><dd class="mono">{{ moment(link.since, clock) }}</dd>
      <dt>{{ $t('devices.roundTrip') }}</dt><dd class="mono">{{ link.roundTripMs.toFixed(2) }} ms</dd>
      <dt>{{ $t('devices.sent') }}</dt><dd class="mono">{{ link.requests }}</dd>
      <dt>{{ $t('devices.errors') }}</dt><dd class="mono">{{ link.errors }}</dd>
      <dt>{{ $t('devices.late') }}</dt><dd class="mono">{{ link.missed }}</dd>
    </dl>
    <p v-if="link?.problem" class="quiet">{{ $t('devices.lastAt', { time: moment(link.problemAt, clock) }) }} {{ link.problem }}</p>
    <UsesList :id="device.id" />
  </InspectorPane>
</template>

<style scoped>
.test { display: flex; flex-direction: column; gap: 10px; align-items: flex-start; }
.good { color: var(--c-spruce); font-weight: 600; }
.facts { display: grid; grid-template-columns: 1fr 1fr; gap: 2px 12px; margin: 0; }
.facts dt { color: var(--c-quiet); }
.facts dd { margin: 0; text-align: right; }
</style>
