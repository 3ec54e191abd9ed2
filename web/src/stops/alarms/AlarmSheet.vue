<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { asFile } from '../../api/upload'
import { useProject } from '../../rail/project'
import PathText from '../../kit/PathText.vue'
import SheetPick from '../../kit/SheetPick.vue'

/** A list of alarms, from a file or pasted: what it would make and change stands below before it does. */
defineProps<{ pasted?: string }>()
const emit = defineEmits<{ done: [] }>()
const project = useProject()
const cells = shallowRef(new Blob())
const plan = shallowRef<Schemas['Plan']>()
const problem = ref('')
const told = computed(() => plan.value?.lines.filter((l) => l.problem || l.from !== 'same') ?? [])
const changes = computed(() => told.value.filter((l) => !l.problem).length)

async function send(apply: boolean) {
  if (!cells.value.size) return void (plan.value = undefined)
  try {
    const got = await ask(
      api.POST('/api/projects/{project}/alarm-definitions/sheet', {
        params: { path: project.path, query: { apply } },
        ...asFile(cells.value),
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
function look(given: Blob) {
  cells.value = given
  void send(false)
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
      <SheetPick
        :pick="$t('alarmSheet.file')"
        :paste="$t('alarmSheet.paste')"
        :pasted="pasted"
        @given="look" />
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
