<script setup lang="ts">
import { computed, ref, shallowRef, toRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence, type TagRow } from '../../api/client'
import InspectorPane from '../../kit/InspectorPane.vue'
import ProofActs from '../../kit/ProofActs.vue'
import { commandKey } from '../../live/live'
import { useTagValues } from '../../live/useTagValues'
import { useProject } from '../../rail/project'
import TurnBox from '../../tags/TurnBox.vue'
import type { useTagList } from '../../tags/useTagList'
import { word } from '../../i18n/word'

// The guided walk from point to point: raw and engineering value side by side,
// a test value where it may be written, and one key for passed or failed.
const props = defineProps<{ list: ReturnType<typeof useTagList>; selected: string }>()
const emit = defineEmits<{ go: [id: string]; close: [] }>()
const project = useProject()
const { t } = useI18n()
const checks = shallowRef<Schemas['LoopCheck'][]>([])
const row = shallowRef<TagRow>()
const test = ref('')
const said = ref('')
const bad = ref(false)
const turn = ref<InstanceType<typeof TurnBox>>()
const order = shallowRef<string[]>([])

async function load() {
  checks.value = await ask(
    api.GET('/api/projects/{project}/loop-checks', { params: { path: project.path } }),
  ).catch(() => checks.value)
}
watch(
  [() => project.versionOf('tag', 'device', 'type', 'equipment', 'paths'), props.list.filter],
  async () => {
    await load()
    order.value = await props.list.ids().catch(() => [])
  },
  { immediate: true, deep: true },
)
const points = computed(() => {
  const by = new Map(checks.value.map((c) => [c.tag, c]))
  return order.value.flatMap((id) => by.get(id) ?? [])
})
const at = computed(() => points.value.findIndex((p) => p.tag === props.selected))
const point = computed(() => points.value[at.value])
const done = computed(() => points.value.filter((p) => p.result !== 'untested').length)
watch(points, (p) => {
  if (at.value < 0 && p.length) emit('go', (p.find((x) => x.result === 'untested') ?? p[0]!).tag)
})
watch(
  () => props.selected,
  async (id) => {
    test.value = ''
    said.value = ''
    row.value = id
      ? await ask(
          api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id } } }),
        ).catch(() => undefined)
      : undefined
  },
  { immediate: true },
)
const values = useTagValues(
  toRef(project, 'id'),
  computed(() => (props.selected ? [props.selected] : [])),
)
const value = computed(() => values.get(props.selected))

function step(by: number, open = false) {
  const all = points.value
  for (let n = 1; n <= all.length; n++) {
    const p = all[(at.value + by * n + all.length * n) % all.length]!
    if (!open || p.result === 'untested') return emit('go', p.tag)
  }
}
function say(text: string, isBad: boolean) {
  said.value = text
  bad.value = isBad
}
async function prove(result: 'passed' | 'failed' | '', note: string) {
  await ask(
    api.POST('/api/projects/{project}/loop-checks', {
      params: { path: project.path },
      body: { tags: [point.value!.tag], result, note: note || undefined },
    }),
  )
  await load()
  if (result) step(1, true)
}
async function write() {
  try {
    const o = await ask(
      api.POST('/api/projects/{project}/draft-writes', {
        params: { path: project.path },
        body: { tag: props.selected, value: test.value, key: commandKey() },
      }),
    )
    say(
      o.reason
        ? `${t(word('outcome', o.outcome))}: ${o.reason}`
        : `${t(word('outcome', o.outcome))}: ${o.new}`,
      o.outcome !== 'confirmed',
    )
  } catch (e) {
    say(sentence(e), true)
  }
}
</script>

<template>
  <InspectorPane :title="$t('loop.walk')" :note="$t('loop.progress', { done, of: points.length })">
    <template #tools>
      <button class="chip" @click="emit('close')">{{ $t('loop.end') }}</button>
    </template>
    <div class="progress">
      <span :style="{ width: (points.length ? (done / points.length) * 100 : 0) + '%' }" />
    </div>
    <TurnBox ref="turn" />
    <p v-if="!points.length" class="quiet">{{ $t('loop.none') }}</p>
    <template v-if="point && row">
      <div>
        <strong class="mono path">{{ point.path }}</strong>
        <div class="quiet">{{ row.tag.description }}</div>
        <div class="mono quiet small">
          {{ project.deviceName(row.tag.device) }} · {{ row.tag.address }}
          <template v-if="row.reference">· {{ row.reference }}</template>
        </div>
      </div>
      <div class="two">
        <div class="box">
          <span class="quiet small">{{ $t('loop.raw') }}</span>
          <span class="mono big">{{ value?.raw ?? '—' }}</span>
        </div>
        <div class="box" :class="{ veiled: value?.level === 'bad' }">
          <span class="quiet small">{{ $t('loop.value') }}</span>
          <span class="mono big">
            {{ value?.level === 'bad' ? '—' : value?.text }}
            <small>{{ value?.level === 'bad' ? '' : row.tag.unit }}</small>
          </span>
        </div>
      </div>
      <div v-if="value?.reason" class="err">{{ value.reason }}</div>
      <form v-if="row.tag.access === 'readwrite'" class="write" @submit.prevent="write">
        <input
          v-model="test"
          class="plain mono"
          :placeholder="$t('loop.testValue')"
          :aria-label="$t('loop.testValue')"
          :disabled="!turn?.mine" />
        <v-btn variant="outlined" type="submit" :disabled="!turn?.mine || !test">
          {{ $t('loop.write') }}
        </v-btn>
      </form>
      <div v-if="said" :class="bad ? 'problem' : 'good'" role="status">{{ said }}</div>
      <ProofActs :point="point" :of="point.tag" :prove="prove" @step="step">
        ·
        <span class="mono">{{ point.seen }}</span>
        <template v-if="point.raw">
          ({{ $t('loop.raw') }}
          <span class="mono">{{ point.raw }}</span>
          )
        </template>
      </ProofActs>
    </template>
  </InspectorPane>
</template>

<style scoped>
.path {
  font-size: 16px;
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.box {
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 6px 10px;
  display: flex;
  flex-direction: column;
}
.big {
  font-size: 22px;
  font-weight: 650;
  overflow-wrap: anywhere;
}
.write {
  display: flex;
  gap: 8px;
}
.good {
  color: var(--c-spruce);
}
</style>
