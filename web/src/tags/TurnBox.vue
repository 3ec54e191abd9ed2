<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask } from '../api/client'
import { clock, moment } from '../kit/moment'
import { useNotice } from '../kit/problem'
import { useProject } from '../rail/project'
import { useCommissioning } from './useCommissioning'

// The commissioning turn: without it nothing is written from the draft.
const project = useProject()
const notice = useNotice()
const { state, load } = useCommissioning()
const taking = ref(false)
const reason = ref('')
const minutes = ref('60')
const chosen = ref<string[]>([])
const turn = computed(() => state.value?.turn)
const may = computed(() => state.value?.may.includes('commission'))
defineExpose({ mine: computed(() => !!turn.value?.mine) })

async function act(work: () => Promise<unknown>) {
  try {
    await work()
    taking.value = false
    await load()
  } catch (e) {
    notice.refuse(e)
  }
}
const params = { path: project.path }
const take = () =>
  act(() =>
    ask(
      api.PUT('/api/projects/{project}/turn', {
        params,
        body: {
          devices: chosen.value.length ? chosen.value : project.devices.map((d) => d.id),
          reason: reason.value,
          minutes: Number(minutes.value),
        },
      }),
    ),
  )
const end = () => act(() => ask(api.DELETE('/api/projects/{project}/turn', { params })))
</script>

<template>
  <div class="turn">
    <template v-if="turn">
      <span>
        <strong>{{ turn.mine ? $t('turn.mine') : $t('turn.of', { name: turn.person }) }}</strong>
        {{ ' ' }}
        <span class="quiet">{{ $t('turn.until', { time: moment(turn.until, clock) }) }}</span>
      </span>
      <button v-if="turn.mine" class="chip" @click="end">{{ $t('turn.end') }}</button>
    </template>
    <template v-else-if="!taking">
      <span class="quiet">{{ $t('turn.none') }}</span>
      <button v-if="may" class="chip on" @click="taking = true">{{ $t('turn.take') }}</button>
    </template>
    <form v-else class="form" @submit.prevent="take">
      <label v-for="d in project.devices" :key="d.id">
        <input v-model="chosen" type="checkbox" :value="d.id" />
        {{ d.name }}
      </label>
      <input
        v-model="reason"
        class="plain"
        :placeholder="$t('turn.reason')"
        :aria-label="$t('turn.reason')" />
      <label>
        {{ $t('turn.minutes') }}
        <input v-model="minutes" class="plain mono short" />
      </label>
      <div>
        <v-btn size="small" color="primary" type="submit" :disabled="!reason.trim()">
          {{ $t('turn.take') }}
        </v-btn>
        {{ ' ' }}
        <v-btn size="small" variant="text" @click="taking = false">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
  </div>
</template>

<style scoped>
.turn {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 6px 10px;
  background: var(--c-paper);
}
.form {
  display: flex;
  flex-direction: column;
  gap: 6px;
  width: 100%;
}
.form label {
  display: flex;
  align-items: center;
  gap: 8px;
}
.short {
  width: 70px;
}
</style>
