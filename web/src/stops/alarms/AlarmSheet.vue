<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { asFile } from '../../api/upload'
import { useProject } from '../../rail/project'
import PathText from '../../kit/PathText.vue'

/** A list of alarms, from a file or pasted: what it would make and change stands below before it does. */
const props = defineProps<{ pasted?: string }>()
const emit = defineEmits<{ done: [] }>()
const project = useProject()
const text = ref(props.pasted ?? '')
const file = shallowRef<File>()
const plan = shallowRef<Schemas['Plan']>()
const problem = ref('')
const told = computed(() => plan.value?.lines.filter((l) => l.problem || l.from !== 'same') ?? [])
const changes = computed(() => told.value.filter((l) => !l.problem).length)

async function send(apply: boolean) {
  const body = file.value ?? new Blob([text.value])
  if (!body.size) return void (plan.value = undefined)
  try {
    const got = await ask(
      api.POST('/api/projects/{project}/alarm-definitions/sheet', {
        params: { path: project.path, query: { apply } },
        ...asFile(body),
      }),
    )
    plan.value = got
    problem.value = ''
    if (got.done) emit('done')
  } catch (e) {
    plan.value = undefined
    problem.value = sentence(e)
  }
}
watch([refDebounced(text, 300), file], () => send(false), { immediate: true })
function choose(e: Event) {
  file.value = (e.target as HTMLInputElement).files?.[0]
}
</script>

<template>
  <div class="sheet">
    <div class="from">
      <span v-for="f in ['csv', 'xlsx'] as const" :key="f">
        <a class="chip" :href="`/api/projects/${project.id}/alarm-definitions/sheet?format=${f}`" download>
          {{ $t('alarmSheet.out', { format: f.toUpperCase() }) }}
        </a>
      </span>
      <label class="chip">
        {{ file?.name ?? $t('alarmSheet.file') }}
        <input type="file" accept=".csv,.txt,.tsv,.xlsx" hidden @change="choose" />
      </label>
      <textarea
        v-if="!file"
        v-model="text"
        class="plain mono"
        rows="3"
        :placeholder="$t('alarmSheet.paste')"
        :aria-label="$t('alarmSheet.paste')"
        spellcheck="false" />
      <div class="end">
        <v-btn color="primary" :disabled="!changes || !!plan?.problems" @click="send(true)">
          {{ $t('alarmSheet.apply', { n: changes }) }}
        </v-btn>
        <v-btn variant="text" @click="emit('done')">{{ $t('common.cancel') }}</v-btn>
      </div>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <template v-if="plan">
      <p class="quiet">{{ $t('alarmSheet.sum', { total: plan.total, changes, problems: plan.problems }) }}</p>
      <div v-if="told.length" class="lines">
        <table class="grid">
          <tbody>
            <tr v-for="(l, i) in told" :key="i">
              <td class="mono"><PathText :path="l.path" /></td>
              <td :class="l.problem ? 'error' : 'quiet'">{{ l.problem || l.from }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </div>
</template>

<style scoped>
.sheet {
  padding: 10px 16px;
  background: var(--c-tint);
  border-bottom: 1px solid var(--c-line);
  display: grid;
  gap: 8px;
}
.from {
  display: flex;
  gap: 10px;
  align-items: start;
}
.from textarea {
  flex: 1;
  min-height: 64px;
  font-size: 12px;
}
.end {
  display: flex;
  gap: 6px;
}
p {
  margin: 0;
}
.lines {
  max-height: 220px;
  overflow: auto;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
}
.error {
  color: var(--c-error);
  white-space: normal;
}
a.chip {
  text-decoration: none;
}
</style>
