<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence } from '../api/client'
import { bytes } from '../kit/bytes'
import { dayAndTime, moment } from '../kit/moment'
import BackupPlan from './BackupPlan.vue'

// Backups of the server, for who manages it: how they stand, taking one, and the plan.
type State = Schemas['BackupState']
const { t } = useI18n()
const state = shallowRef<State>()
const problem = ref('')
const planning = ref(false)
const listing = ref(false)
const ASK_MS = 1000

async function act(work: () => Promise<State>) {
  problem.value = ''
  try {
    state.value = await work()
    return true
  } catch (e) {
    problem.value = sentence(e)
    return false
  }
}
const load = () => act(() => ask(api.GET('/api/backups')))
const take = () => act(() => ask(api.POST('/api/backups')))
async function save(plan: State['plan']) {
  if (await act(() => ask(api.PUT('/api/backups', { body: plan })))) planning.value = false
}
onMounted(load)
useIntervalFn(() => void (state.value?.busy && load()), ASK_MS)

const last = computed(() => {
  const l = state.value?.last
  if (!l?.last) return t('backup.never')
  return t('backup.last', { at: moment(l.last, dayAndTime), size: bytes(l.bytes), took: l.took.toFixed(1) })
})
const next = computed(() =>
  state.value?.next ? t('backup.next', { at: moment(state.value.next, dayAndTime) }) : t('backup.byHand'),
)
</script>

<template>
  <section v-if="state" class="backups" :aria-label="$t('backup.title')">
    <h2>{{ $t('backup.title') }}</h2>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div v-if="state.last && !state.last.good" class="problem" role="alert">
      {{ $t('backup.failed', { why: state.last.problem }) }}
    </div>
    <p>
      <span :class="{ warn: !state.last?.last }">{{ last }}</span>
      {{ next }}
    </p>
    <p class="quiet folder">
      {{ $t(state.beside ? 'backup.beside' : 'backup.folder', { folder: state.folder }) }}
    </p>
    <div class="acts">
      <v-btn variant="outlined" :disabled="state.busy" @click="take">{{ $t('backup.take') }}</v-btn>
      <v-btn variant="text" :aria-expanded="planning" @click="planning = !planning">
        {{ $t('backup.plan') }}
      </v-btn>
      <v-btn v-if="state.kept.length" variant="text" :aria-expanded="listing" @click="listing = !listing">
        {{ $t('backup.list', { n: state.kept.length }) }}
      </v-btn>
      <span v-if="state.busy" role="status">{{ $t('backup.busy') }}</span>
    </div>
    <BackupPlan v-if="planning" :plan="state.plan" @save="save" @leave="planning = false" />
    <template v-if="listing">
      <table class="grid">
        <tbody>
          <tr v-for="k in state.kept" :key="k.name">
            <td class="mono">{{ k.name }}</td>
            <td>{{ moment(k.at, dayAndTime) }}</td>
            <td class="mono">{{ bytes(k.bytes) }}</td>
            <td>{{ k.sealed ? $t('backup.sealed') : '' }}</td>
          </tr>
        </tbody>
      </table>
      <p class="quiet">{{ $t('backup.how') }}</p>
    </template>
  </section>
</template>

<style scoped>
.backups {
  margin-top: 24px;
}
.folder {
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
</style>
