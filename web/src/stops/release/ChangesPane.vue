<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useSession } from '../../api/session'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import ChangeRow from './ChangeRow.vue'
import { countsOf, type Difference, keyOf, narrow } from './changes'

// What differs between two versions, thing by thing, and taking things of the draft back.
const props = defineProps<{ releases: Schemas['ReleaseInfo'][]; from?: number }>()
const project = useProject()
const session = useSession()
const notice = useNotice()
const { t } = useI18n()
const DRAFT = 'draft'
const SHOWN = 200

const before = ref('')
const after = ref(DRAFT)
const list = shallowRef<Difference[]>()
const problem = ref('')
const text = ref('')
const stop = ref('')
const person = ref('')
const chosen = ref(new Set<string>())
const sure = ref(false)
const shown = ref(SHOWN)

watch(
  () => [props.from, props.releases] as const,
  ([from, releases], old) => {
    if (from && from !== old?.[0]) [before.value, after.value] = [String(from), DRAFT]
    else before.value ||= String(releases[0]?.number ?? '')
  },
  { immediate: true },
)
watch(
  () => [before.value, after.value, project.version] as const,
  async ([a, b], old) => {
    if (a !== old?.[0] || b !== old[1]) chosen.value = new Set()
    sure.value = false
    if (!a) return
    try {
      const told = await ask(
        api.GET('/api/projects/{project}/differences', {
          params: { path: project.path, query: { before: a, after: b } },
        }),
      )
      if (a !== before.value || b !== after.value) return
      list.value = told
      problem.value = ''
    } catch (e) {
      problem.value = sentence(e)
    }
  },
  { immediate: true },
)

const versions = computed(() =>
  props.releases.map((r) => ({
    value: String(r.number),
    title: t('changes.releaseN', { n: r.number }) + (r.note ? ` · ${r.note}` : ''),
  })),
)
const found = computed(() => narrow(list.value ?? [], text.value, stop.value, person.value))
const counts = computed(() => countsOf(found.value))
const stops = computed(() => [
  { value: '', title: t('changes.everyStop') },
  ...[...new Set(list.value?.map((d) => d.stop))].map((s) => ({ value: s, title: t(`stop.${s}`) })),
])
const people = computed(() => [
  { value: '', title: t('changes.everyone') },
  ...[...new Set(list.value?.flatMap((d) => d.by))].sort().map((p) => ({ value: p, title: p })),
])
const mayTake = computed(() => after.value === DRAFT && session.may(project.id, 'engineer'))

function tick(d: Difference) {
  const next = new Set(chosen.value)
  if (!next.delete(keyOf(d))) next.add(keyOf(d))
  chosen.value = next
}
async function take(which: Difference[]) {
  try {
    const done = await ask(
      api.POST('/api/projects/{project}/draft/taken', {
        params: { path: project.path },
        body: { from: before.value, things: which.map(({ kind, id }) => ({ kind, id })) },
      }),
    )
    notice.say(done.changes ? t('changes.took', { n: done.changes }) : t('changes.none'))
    chosen.value = new Set()
  } catch (e) {
    notice.refuse(e)
  }
  sure.value = false
}
const picked = computed(() => (list.value ?? []).filter((d) => chosen.value.has(keyOf(d))))
</script>

<template>
  <div class="changes">
    <div class="bar">
      <FieldSelect v-model="before" :label="$t('changes.before')" :options="versions" />
      <FieldSelect
        v-model="after"
        :label="$t('changes.after')"
        :options="[{ value: DRAFT, title: $t('changes.draft') }, ...versions]" />
      <FieldSelect v-model="stop" :label="$t('findings.where')" :options="stops" />
      <FieldSelect v-if="people.length > 1" v-model="person" :label="$t('release.by')" :options="people" />
      <div class="field">
        <label for="find-changes">{{ $t('changes.find') }}</label>
        <input id="find-changes" v-model="text" />
      </div>
      <span class="tally" role="status">
        <span v-for="(n, is) in counts" :key="is" class="chip">{{ $t(`changes.${is}`, { n }) }}</span>
      </span>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <p v-if="!releases.length" class="empty">{{ $t('changes.noRelease') }}</p>
    <p v-else-if="list && !list.length" class="empty">{{ $t('changes.same') }}</p>
    <template v-else-if="list">
      <div v-if="mayTake" class="acts">
        <v-btn v-if="picked.length" variant="outlined" @click="take(picked)">
          {{ $t('changes.take', { n: picked.length, number: before }) }}
        </v-btn>
        <v-btn v-if="!sure" variant="text" @click="sure = true">
          {{ $t('changes.takeAll', { number: before }) }} …
        </v-btn>
        <template v-else>
          <span>{{ $t('changes.sure', { number: before, n: list.length }) }}</span>
          <v-btn color="primary" @click="take(list)">{{ $t('changes.takeAll', { number: before }) }}</v-btn>
          <v-btn variant="text" @click="sure = false">{{ $t('common.cancel') }}</v-btn>
        </template>
      </div>
      <div class="list">
        <ChangeRow
          v-for="d in found.slice(0, shown)"
          :key="keyOf(d)"
          :difference="d"
          :ticked="mayTake ? chosen.has(keyOf(d)) : undefined"
          @tick="tick(d)" />
        <v-btn v-if="found.length > shown" variant="text" @click="shown += SHOWN">
          {{ $t('changes.more', { n: found.length - shown }) }}
        </v-btn>
      </div>
    </template>
  </div>
</template>

<style scoped>
.changes {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: flex-end;
  padding: 10px 16px;
  border-bottom: 1px solid var(--c-line);
}
.bar .field {
  flex: 1 1 130px;
  max-width: 260px;
}
.tally,
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.tally {
  padding-bottom: 6px;
}
.acts {
  padding: 6px 16px;
}
.list {
  flex: 1;
  overflow: auto;
}
</style>
