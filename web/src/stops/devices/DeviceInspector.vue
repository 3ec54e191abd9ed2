<script setup lang="ts">
import { mdiConnection, mdiTrashCanOutline } from '@mdi/js'
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import {
  api,
  ask,
  type Device,
  type LinkStatus,
  type Refused,
  type Schemas,
  sentence,
} from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import { dayAndTime, moment } from '../../kit/moment'
import UsesList from '../../kit/UsesList.vue'
import { useProject } from '../../rail/project'
import ConditionsEditor from './ConditionsEditor.vue'
import CredentialField from './CredentialField.vue'
import DeviceFunctions from './DeviceFunctions.vue'
import PollGroups from './PollGroups.vue'

const props = defineProps<{
  device: Device
  link: LinkStatus | undefined
  protocols: Schemas['Protocols'] | undefined
}>()
const project = useProject()
const router = useRouter()
const { t } = useI18n()
const refused = ref<Refused>()
const test = ref<Schemas['DeviceTest']>()
const testing = ref(false)
const endpoints = shallowRef<Schemas['Endpoint'][]>()
const findings = computed(() =>
  project.findings.filter((f) => f.id === props.device.id && f.severity !== 'note'),
)
const problem = (field: string) =>
  refused.value?.problem.refusal?.path === '/' + field ? refused.value.message : undefined

let edit: Promise<unknown> = Promise.resolve()
async function set(field: keyof Device, value: unknown) {
  const mine = project.edit(t('devices.edited', { name: props.device.name }), [
    { kind: 'device', id: props.device.id, path: '/' + field, value, was: props.device[field] },
  ])
  edit = mine
  refused.value = await mine
}
async function setAll(next: Partial<Device>) {
  const mine = project.edit(t('devices.edited', { name: props.device.name }), [
    { kind: 'device', id: props.device.id, path: '', value: { ...props.device, ...next } },
  ])
  edit = mine
  refused.value = await mine
}
const number = (field: keyof Device) => (v: string) => set(field, Number(v))

/** The device as it stands once a field that was just left has arrived. */
async function settled(): Promise<Device> {
  await edit
  await project.refresh()
  return project.devices.find((d) => d.id === props.device.id) ?? props.device
}
async function run() {
  testing.value = true
  test.value = undefined
  try {
    test.value = await ask(
      api.POST('/api/projects/{project}/devices/test', {
        params: { path: project.path },
        body: await settled(),
      }),
    )
  } catch (e) {
    test.value = { ok: false, roundTripMs: 0, problem: sentence(e) }
  } finally {
    testing.value = false
  }
}
async function discover() {
  testing.value = true
  try {
    endpoints.value = await ask(
      api.POST('/api/projects/{project}/devices/endpoints', {
        params: { path: project.path },
        body: await settled(),
      }),
    )
  } catch (e) {
    test.value = { ok: false, roundTripMs: 0, problem: sentence(e) }
  } finally {
    testing.value = false
  }
}
const choose = (e: Schemas['Endpoint']) =>
  setAll({ security: e.security, mode: e.mode }).then(() => (endpoints.value = undefined))
const trust = (c: Schemas['Certificate']) =>
  set('trusted', c.fingerprint).then(() => (test.value = undefined))
async function remove() {
  const { id, name } = props.device
  await router.push({ name: 'devices', params: { project: project.id } })
  await project.edit(t('devices.deleted', { name }), [{ kind: 'device', id, path: '' }])
}
const orders = ['ABCD', 'CDAB', 'BADC', 'DCBA'] as const
const is = (protocol: string) => props.device.protocol === protocol
const same = (list: string[]) => list.map((v) => ({ value: v, title: v }))
</script>

<template>
  <InspectorPane :title="device.name" :note="$t($word('protocol', device.protocol))">
    <template #tools>
      <button class="bare" :aria-label="$t('common.delete')" :title="$t('common.delete')" @click="remove">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </template>
    <div class="fields">
      <FieldText
        class="wide"
        :label="$t('common.name')"
        mono
        :model-value="device.name"
        :problem="problem('name')"
        @update:model-value="set('name', $event)" />
      <template v-if="!is('standin')">
        <FieldText
          :label="$t('devices.host')"
          mono
          :model-value="device.host"
          :problem="problem('host')"
          @update:model-value="set('host', $event.trim())" />
        <FieldText
          :label="$t('devices.port')"
          mono
          :model-value="device.port"
          :problem="problem('port')"
          @update:model-value="number('port')($event)" />
      </template>
    </div>
    <div v-if="!is('standin')" class="test">
      <div class="line">
        <v-btn
          variant="outlined"
          color="primary"
          :prepend-icon="mdiConnection"
          :loading="testing"
          @click="run">
          {{ $t('devices.test') }}
        </v-btn>
        <v-btn v-if="is('opcua')" variant="text" @click="discover">{{ $t('devices.endpoints') }}</v-btn>
      </div>
      <div v-if="test?.ok" role="status" class="good">
        {{ $t('devices.answers', { ms: test.roundTripMs.toFixed(1) }) }}
      </div>
      <div v-else-if="test" role="alert" class="problem">
        {{ test.problem }}
        <div v-if="test.certificate" class="cert">
          <div class="mono">{{ test.certificate.subject }}</div>
          <div class="quiet">
            {{
              $t('devices.certUntil', {
                issuer: test.certificate.issuer,
                until: moment(test.certificate.until, dayAndTime),
              })
            }}
          </div>
          <div class="mono small">{{ test.certificate.fingerprint }}</div>
          <v-btn size="small" color="primary" @click="trust(test.certificate)">
            {{ $t('devices.trust') }}
          </v-btn>
        </div>
      </div>
      <ul v-if="endpoints" class="ends">
        <li v-for="e in endpoints" :key="e.security + e.mode">
          <button class="bare" @click="choose(e)">
            <strong>{{ e.security }} · {{ $t($word('mode', e.mode)) }}</strong>
            {{ ' ' }}
            <span class="quiet">{{ e.signIn.map((x) => $t($word('signIn', x))).join(', ') }}</span>
          </button>
        </li>
      </ul>
    </div>
    <div v-for="f in findings" :key="f.rule" class="finding" :class="f.severity">
      {{ f.says }}
      <span class="quiet">{{ f.mend }}</span>
    </div>
    <p v-if="link?.state === 'down' && link.problem" class="problem">{{ link.problem }}</p>
    <div class="fields">
      <FieldText
        class="wide"
        :label="$t('common.description')"
        :model-value="device.description"
        @update:model-value="set('description', $event || undefined)" />
      <template v-if="is('modbus-tcp')">
        <FieldText
          :label="$t('devices.unit')"
          mono
          :model-value="device.unit"
          :problem="problem('unit')"
          @update:model-value="number('unit')($event)" />
        <FieldSelect
          :label="$t('devices.order')"
          :model-value="device.order"
          :options="orders.map((o) => ({ value: o, title: $t($word('order', o)) }))"
          @update:model-value="set('order', $event)" />
        <FieldSelect
          :label="$t('devices.numbering')"
          :model-value="String(device.numbering)"
          :options="[
            { value: '0', title: $t('devices.from0') },
            { value: '1', title: $t('devices.from1') },
          ]"
          @update:model-value="number('numbering')($event)" />
        <FieldText
          :label="$t('devices.gap')"
          mono
          :model-value="device.maxGap"
          :problem="problem('maxGap')"
          @update:model-value="number('maxGap')($event)" />
        <FieldText
          :label="$t('devices.block')"
          mono
          :model-value="device.maxBlock"
          :problem="problem('maxBlock')"
          @update:model-value="number('maxBlock')($event)" />
        <FieldText
          :label="$t('devices.inFlight')"
          mono
          :model-value="device.inFlight || 1"
          :problem="problem('inFlight')"
          @update:model-value="number('inFlight')($event)" />
        <FieldSelect
          :label="$t('devices.bitWrite')"
          :model-value="device.bitWrite || 'mask'"
          :options="(['mask', 'word'] as const).map((v) => ({ value: v, title: $t($word('bitWrite', v)) }))"
          @update:model-value="set('bitWrite', $event)" />
        <FieldCheck
          :label="$t('devices.together')"
          :model-value="device.together"
          @update:model-value="set('together', $event || undefined)" />
      </template>
      <template v-if="is('opcua')">
        <FieldText
          class="wide"
          :label="$t('devices.path')"
          mono
          :model-value="device.path"
          :problem="problem('path')"
          @update:model-value="set('path', $event.trim() || undefined)" />
        <FieldSelect
          :label="$t('devices.security')"
          :model-value="device.security || 'None'"
          :options="same(protocols?.policies ?? ['None'])"
          @update:model-value="
            setAll({
              security: $event,
              mode:
                $event === 'None' ? 'none' : device.mode === 'none' || !device.mode ? 'encrypt' : device.mode,
            })
          " />
        <FieldSelect
          :label="$t('devices.mode')"
          :model-value="device.mode || 'none'"
          :options="
            (protocols?.modes ?? (['none'] as const)).map((v) => ({ value: v, title: $t($word('mode', v)) }))
          "
          @update:model-value="set('mode', $event)" />
      </template>
      <template v-if="is('mqtt')">
        <FieldText
          :label="$t('devices.clientId')"
          mono
          :model-value="device.clientId"
          :placeholder="'ready-rail-' + device.id"
          @update:model-value="set('clientId', $event.trim() || undefined)" />
        <FieldSelect
          :label="$t('devices.qos')"
          :model-value="String(device.qos ?? 0)"
          :options="same(['0', '1', '2'])"
          @update:model-value="number('qos')($event)" />
        <FieldText
          :label="$t('devices.will')"
          mono
          :model-value="device.will"
          :problem="problem('will')"
          @update:model-value="set('will', $event.trim() || undefined)" />
        <FieldText
          :label="$t('devices.willGone')"
          mono
          :model-value="device.willGone"
          @update:model-value="set('willGone', $event || undefined)" />
        <FieldText
          :label="$t('devices.maxSilence')"
          mono
          :model-value="device.maxSilence || undefined"
          :placeholder="$t('devices.anyAge')"
          @update:model-value="number('maxSilence')($event)" />
        <FieldCheck
          :label="$t('devices.tls')"
          :model-value="device.tls"
          @update:model-value="set('tls', $event || undefined)" />
        <FieldCheck
          :label="$t('devices.retain')"
          :model-value="device.retain"
          @update:model-value="set('retain', $event || undefined)" />
      </template>
      <CredentialField
        v-if="is('opcua') || is('mqtt')"
        class="wide"
        :model-value="device.credential ?? ''"
        @update:model-value="set('credential', $event || undefined)" />
      <FieldText
        v-if="is('opcua') || device.tls"
        class="wide"
        :label="$t('devices.trusted')"
        mono
        :model-value="device.trusted"
        :placeholder="$t('devices.trustHint')"
        @update:model-value="set('trusted', $event.trim() || undefined)" />
      <FieldText
        :label="$t('devices.poll')"
        mono
        :model-value="device.poll"
        :problem="problem('poll')"
        @update:model-value="number('poll')($event)" />
      <FieldText
        :label="$t('devices.timeout')"
        mono
        :model-value="device.timeout"
        :problem="problem('timeout')"
        @update:model-value="number('timeout')($event)" />
      <FieldCheck
        :label="$t('devices.off')"
        :model-value="device.off"
        @update:model-value="set('off', $event)" />
    </div>
    <PollGroups
      :groups="device.groups ?? []"
      :problem="problem('groups')"
      @set="set('groups', $event.length ? $event : undefined)" />
    <ConditionsEditor
      :groups="device.conditions ?? []"
      :problem="problem('conditions')"
      @set="set('conditions', $event.length ? $event : undefined)" />
    <DeviceFunctions
      v-if="!is('standin')"
      :device="device"
      :usual="protocols?.locate ?? []"
      :problem="problem('heartbeat') ?? problem('clock') ?? problem('locate')"
      @set="set" />
    <UsesList :id="device.id" />
  </InspectorPane>
</template>

<style scoped>
.test {
  display: flex;
  flex-direction: column;
  gap: 10px;
  align-items: stretch;
}
.line {
  display: flex;
  gap: 8px;
}
.good {
  color: var(--c-spruce);
  font-weight: 600;
}
.cert {
  margin-top: 8px;
  overflow-wrap: anywhere;
  display: flex;
  flex-direction: column;
  gap: 4px;
  align-items: flex-start;
}
.small {
  font-size: 12px;
}
.ends {
  list-style: none;
  padding: 0;
  margin: 0;
}
.ends li {
  padding: 4px 0;
  border-bottom: 1px solid var(--c-line);
}
</style>
