<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence, type Tag, type TagRow } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import { firstAddress } from '../../tags/newTag'
import TagDefinition from './TagDefinition.vue'
import PathText from '../../kit/PathText.vue'
import { word } from '../../i18n/word'

// Edits in bulk: make by a pattern, copy with steps or substitution, move. What
// it would do stands below, line by line, while it is being said.
const props = defineProps<{
  what: 'many' | 'copy' | 'move'
  tags: string[]
  folder: string
  folderPath: string
  sample: string
}>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
const plan = shallowRef<Schemas['Plan']>()
const problem = ref('')
const busy = ref(false)

const many = ref({
  path: (props.folderPath ? props.folderPath + '.' : '') + 'Zone[1..12].Temperature',
  type: 'INT',
  source: 'device',
  device: project.devices[0]?.id ?? '',
  address: '',
  step: 0,
  access: 'read',
  description: '',
})
/** What those that are made share beyond it. */
const shared = ref<Partial<Tag>>({})
const made = computed<Tag>(() => {
  const m = many.value
  return {
    ...shared.value,
    id: '',
    name: 'x',
    type: m.type,
    source: m.source,
    description: m.description || undefined,
    ...(m.source === 'device' ? { device: m.device, access: m.access } : {}),
  } as Tag
})
const wholeFolder = computed(() => props.tags.length < 2 && !!props.folder)
const copies = ref({
  count: 1,
  nameStep: 0,
  addressStep: 0,
  bitStep: 0,
  find: '',
  replace: '',
  device: '',
  texts: false,
  alarms: true,
})
const move = ref({ to: props.folderPath, name: '' })

onMounted(async () => {
  many.value.address = firstAddress(project.devices[0], 'INT')
  const last = props.folderPath.split('.').pop() ?? ''
  if (props.what === 'copy' && wholeFolder.value) {
    copies.value.find = last
    copies.value.replace = last.replace(/\d+$/, (n) => String(Number(n) + 1))
  }
  if (props.what === 'copy' && !wholeFolder.value) Object.assign(copies.value, { nameStep: 1, texts: true })
  if (props.what === 'move' && wholeFolder.value) {
    move.value.to = props.folderPath.split('.').slice(0, -1).join('.')
    move.value.name = last
  } else if (props.what === 'move' && props.tags.length === 1) {
    const r: TagRow | undefined = await ask(
      api.GET('/api/projects/{project}/tags/{id}', {
        params: { path: { ...project.path, id: props.tags[0]! } },
      }),
    ).catch(() => undefined)
    move.value.name = r?.tag.name ?? ''
  }
  await look()
})

const params = { path: project.path }
function send(apply: boolean) {
  if (props.what === 'many') {
    const m = many.value
    const tag = made.value
    return ask(
      api.POST('/api/projects/{project}/tags/many', {
        params,
        body: { apply, plan: { path: m.path, address: m.address, step: Number(m.step) || 0, tag } },
      }),
    )
  }
  if (props.what === 'copy') {
    const c = copies.value
    const body = {
      count: Number(c.count) || 1,
      nameStep: Number(c.nameStep) || 0,
      addressStep: Number(c.addressStep) || 0,
      bitStep: Number(c.bitStep) || 0,
      texts: c.texts,
      alarms: c.alarms,
      find: c.find || undefined,
      replace: c.replace || undefined,
      device: c.device || undefined,
    }
    return ask(
      api.POST('/api/projects/{project}/tags/copies', {
        params,
        body: {
          apply,
          plan: wholeFolder.value ? { ...body, folder: props.folder } : { ...body, tags: props.tags },
        },
      }),
    )
  }
  const body = { to: move.value.to.trim(), name: move.value.name.trim() || undefined }
  return ask(
    api.POST('/api/projects/{project}/tags/moves', {
      params,
      body: {
        apply,
        plan: wholeFolder.value ? { ...body, folders: [props.folder] } : { ...body, tags: props.tags },
      },
    }),
  )
}
async function look() {
  problem.value = ''
  try {
    plan.value = await send(false)
  } catch (e) {
    plan.value = undefined
    problem.value = sentence(e)
  }
}
const soon = useDebounceFn(look, 150)
watch([many, shared, copies, move], () => soon(), { deep: true })
async function apply() {
  busy.value = true
  try {
    const done = await send(true)
    notice.say(t(word('bulk.done', props.what), { n: done.total }))
    emit('close')
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const types = [
  'BOOL',
  'SINT',
  'USINT',
  'INT',
  'UINT',
  'DINT',
  'UDINT',
  'LINT',
  'ULINT',
  'REAL',
  'LREAL',
  'STRING(16)',
]
const device = computed(() => project.devices.find((d) => d.id === many.value.device))
watch(
  () => many.value.device,
  () => (many.value.address = firstAddress(device.value, many.value.type)),
)
</script>

<template>
  <div class="panel">
    <div class="top">
      <h2>{{ $t($word('bulk', what)) }}</h2>
      <span class="quiet">{{ $t($word('bulk.why', what)) }}</span>
      <span class="grow" />
      <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
      <v-btn
        color="primary"
        :disabled="!plan || !plan.total || !!plan.problems"
        :loading="busy"
        @click="apply">
        {{ $t($word('bulk.do', what), { n: plan?.total ?? 0 }) }}
      </v-btn>
    </div>
    <div v-if="what === 'many'" class="fields form">
      <label class="wide">
        {{ $t('bulk.pattern') }}
        <input v-model="many.path" class="plain mono" />
      </label>
      <FieldSelect
        :label="$t('tags.type')"
        :model-value="many.type"
        :options="types.map((v) => ({ value: v, title: v }))"
        @update:model-value="many.type = $event" />
      <FieldSelect
        :label="$t('tags.source')"
        :model-value="many.source"
        :options="
          (['device', 'internal', 'computed'] as const).map((v) => ({
            value: v,
            title: $t($word('source', v)),
          }))
        "
        @update:model-value="many.source = $event" />
      <template v-if="many.source === 'device'">
        <FieldSelect
          :label="$t('tags.device')"
          :model-value="many.device"
          :options="project.devices.map((d) => ({ value: d.id, title: d.name }))"
          @update:model-value="many.device = $event" />
        <label>
          {{ $t('bulk.firstAddress') }}
          <input v-model="many.address" class="plain mono" />
        </label>
        <label>
          {{ $t('bulk.addressStep') }}
          <input v-model="many.step" class="plain mono" :placeholder="$t('bulk.sizeOfType')" />
        </label>
        <FieldSelect
          :label="$t('tags.access')"
          :model-value="many.access"
          :options="
            (['read', 'readwrite'] as const).map((v) => ({ value: v, title: $t($word('access', v)) }))
          "
          @update:model-value="many.access = $event" />
      </template>
      <label class="wide">
        {{ $t('common.description') }}
        <input v-model="many.description" class="plain" :placeholder="$t('bulk.numbers')" />
      </label>
      <details class="wide">
        <summary>{{ $t('bulk.more') }}</summary>
        <div class="more">
          <TagDefinition :tag="made" plain @set="(field, v) => (shared = { ...shared, [field]: v })" />
        </div>
      </details>
    </div>
    <div v-else-if="what === 'copy'" class="fields form">
      <label>
        {{ $t('bulk.count') }}
        <input v-model="copies.count" class="plain mono" />
      </label>
      <label>
        {{ $t('bulk.find') }}
        <input v-model="copies.find" class="plain mono" />
      </label>
      <label>
        {{ $t('bulk.replace') }}
        <input v-model="copies.replace" class="plain mono" :placeholder="$t('bulk.replaceHint')" />
      </label>
      <label>
        {{ $t('bulk.nameStep') }}
        <input v-model="copies.nameStep" class="plain mono" :disabled="!!copies.find" />
      </label>
      <label>
        {{ $t('bulk.registerStep') }}
        <input v-model="copies.addressStep" class="plain mono" />
      </label>
      <label>
        {{ $t('bulk.bitStep') }}
        <input v-model="copies.bitStep" class="plain mono" />
      </label>
      <FieldSelect
        :label="$t('tags.device')"
        :model-value="copies.device"
        :options="[
          { value: '', title: $t('bulk.sameDevice') },
          ...project.devices.map((d) => ({ value: d.id, title: d.name })),
        ]"
        @update:model-value="copies.device = $event" />
      <FieldCheck v-model="copies.texts" class="wide" :label="$t('bulk.texts')" />
      <FieldCheck v-model="copies.alarms" class="wide" :label="$t('bulk.alarms')" />
    </div>
    <div v-else class="fields form">
      <label class="wide">
        {{ $t('bulk.to') }}
        <input v-model="move.to" class="plain mono" :placeholder="$t('bulk.top')" />
      </label>
      <label v-if="wholeFolder || tags.length === 1">
        {{ $t('bulk.name') }}
        <input v-model="move.name" class="plain mono" />
      </label>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <p v-if="plan" role="status">
      <strong>{{ $t('bulk.total', { n: plan.total }) }}</strong>
      <template v-if="what === 'move'">{{ ' · ' + $t('bulk.places', { n: plan.places }) }}</template>
      <span v-if="plan.problems" class="err">{{ ' · ' + $t('bulk.problems', { n: plan.problems }) }}</span>
    </p>
    <div v-if="plan" class="scroll">
      <table class="grid">
        <thead>
          <tr>
            <th v-if="what !== 'many'">{{ $t('bulk.from') }}</th>
            <th>{{ $t('tags.path') }}</th>
            <th>{{ $t('tags.address') }}</th>
            <th />
            <th>{{ $t('common.description') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in plan.lines" :key="l.path + (l.from ?? '')">
            <td v-if="what !== 'many'" class="mono quiet">{{ l.from }}</td>
            <td class="mono"><PathText :path="l.path" /></td>
            <td class="mono" :title="l.address">{{ l.address }}</td>
            <td class="says">
              <span class="err">{{ l.problem }}</span>
              <span v-if="l.used && !l.problem" class="used">{{ $t('bulk.used', { path: l.used }) }}</span>
            </td>
            <td :title="l.text">{{ l.text }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.panel {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 12px 16px;
}
.top {
  display: flex;
  gap: 12px;
  align-items: center;
}
.grow {
  flex: 1;
}
.form {
  grid-template-columns: repeat(4, minmax(100px, 1fr));
  max-width: 900px;
}
.form label {
  font-size: 12px;
  color: var(--c-quiet);
  display: block;
}
.form label.wide,
.form details {
  grid-column: span 2;
}
.form details {
  color: var(--c-ink);
}
.more {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 8px 0;
  max-height: 260px;
  overflow: auto;
}
.scroll td {
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.scroll .says {
  white-space: normal;
  min-width: 150px;
}
.used {
  color: var(--c-warning);
}
p {
  margin: 0;
}
.scroll {
  overflow: auto;
  flex: 1;
}
</style>
