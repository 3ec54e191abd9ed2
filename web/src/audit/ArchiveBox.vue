<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { useSession } from '../api/session'
import { dayAndTime, moment } from '../kit/moment'

// What of a record that only grows was written out and sealed, and closing the present
// part of it.
const props = defineProps<{
  project: string
  of: 'journal' | 'audit'
  /** What closing does, and what stands on the button. */
  why: string
  go: string
}>()
const emit = defineEmits<{ closed: [] }>()
const session = useSession()
const list = shallowRef<Schemas['Archive'][]>()
const reason = ref('')
const problem = ref('')
const at = `/api/projects/{project}/${props.of}-archives` as const
const path = () => ({ params: { path: { project: props.project } } })
async function load() {
  list.value = await ask(api.GET(at, path())).catch((e: unknown) => ((problem.value = sentence(e)), []))
}
async function close() {
  try {
    await ask(
      api.POST(at, {
        ...path(),
        body: { reason: reason.value.trim() },
      }),
    )
    reason.value = problem.value = ''
    await load()
    emit('closed')
  } catch (e) {
    problem.value = sentence(e)
  }
}
void load()
</script>

<template>
  <div class="archives">
    <form v-if="session.may(project, 'archive')" @submit.prevent="reason.trim() && close()">
      <span>{{ why }}</span>
      <input v-model="reason" class="plain" :placeholder="$t('alarm.why')" :aria-label="$t('alarm.why')" />
      <button class="plain go" type="submit" :disabled="!reason.trim()">{{ go }}</button>
    </form>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <p v-if="list && !list.length" class="own">{{ $t('archive.none') }}</p>
    <table v-if="list?.length" class="grid">
      <thead>
        <tr>
          <th>{{ $t('audit.time') }}</th>
          <th>{{ $t('archive.file') }}</th>
          <th>{{ $t('archive.entries') }}</th>
          <th>SHA-256</th>
          <th>{{ $t('audit.who') }}</th>
          <th>{{ $t('alarm.why') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="a in list" :key="a.id">
          <td class="mono">{{ moment(a.at / 1e6, dayAndTime) }}</td>
          <td>
            <a :href="`/api/projects/${project}/${of}-archives/${a.id}`" download>{{ a.file }}</a>
          </td>
          <td class="mono">{{ a.entries }}</td>
          <td class="mono" :title="a.hash">{{ a.hash.slice(0, 16) }}…</td>
          <td>{{ a.person }}</td>
          <td>{{ a.reason }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.archives {
  padding: 8px 12px;
  background: var(--c-tint);
  border-block: 1px solid var(--c-line);
  display: grid;
  gap: 8px;
  font-size: 14px;
}
form {
  display: flex;
  gap: 8px;
  align-items: center;
}
form .plain {
  min-height: 40px;
}
input {
  width: 300px;
}
.go {
  flex: none;
  cursor: pointer;
  font-weight: 600;
  padding: 0 14px;
}
.go:disabled {
  opacity: 0.5;
}
</style>
