<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask } from '../api/client'
import { useAsked } from '../desk/asked'
import { dayAndTime, moment } from '../kit/moment'
import { useNotice } from '../kit/problem'
import { useProject } from '../rail/project'
import { useCommissioning } from './useCommissioning'

// Holding a tag at a value: by right, with a reason and an end.
const props = defineProps<{ id: string; path: string; now: string | null }>()
const project = useProject()
const notice = useNotice()
const asked = useAsked()
const { t } = useI18n()
const { state, load } = useCommissioning()
const held = computed(() => state.value?.overrides.find((o) => o.tag === props.id))
const may = computed(() => state.value?.may.includes('override'))
const open = ref(false)
const value = ref('')
const minutes = ref('60')

function begin() {
  value.value = props.now ?? ''
  open.value = true
}
async function act(work: () => Promise<unknown>) {
  try {
    if (!(await work())) return
    open.value = false
    await load()
  } catch (e) {
    notice.refuse(e)
  }
}
const where = computed(() => ({ ...project.path, id: props.id }))
const hold = () =>
  act(() =>
    asked.send({ title: t('hold.do'), says: `${props.path} = ${value.value}` }, (answer) =>
      ask(
        api.PUT('/api/projects/{project}/overrides/{id}', {
          params: { path: where.value },
          body: { ...answer, value: value.value, minutes: Number(minutes.value) },
        }),
      ),
    ),
  )
const giveBack = () =>
  act(async () => {
    await ask(api.DELETE('/api/projects/{project}/overrides/{id}', { params: { path: where.value } }))
    return true
  })
</script>

<template>
  <div v-if="held" class="held">
    <div>
      <strong>{{ $t('hold.held', { value: held.value }) }}</strong>
      {{ ' ' }}
      <span class="quiet">
        {{ $t('hold.by', { name: held.person, until: moment(held.until, dayAndTime) }) }}
      </span>
      <div>{{ held.reason }}</div>
    </div>
    <v-btn v-if="may" size="small" variant="outlined" @click="giveBack">{{ $t('hold.give') }}</v-btn>
  </div>
  <template v-else-if="may">
    <button v-if="!open" class="chip start" @click="begin">{{ $t('hold.begin') }}</button>
    <form v-else class="form" @submit.prevent="hold">
      <label>
        {{ $t('hold.value') }}
        <input v-model="value" class="plain mono" />
      </label>
      <label>
        {{ $t('hold.minutes') }}
        <input v-model="minutes" class="plain mono" />
      </label>
      <div class="wide">
        <v-btn size="small" color="primary" type="submit">
          {{ $t('hold.do') }}
        </v-btn>
        {{ ' ' }}
        <v-btn size="small" variant="text" @click="open = false">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
  </template>
</template>

<style scoped>
.held {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  align-items: center;
  border-left: 4px solid var(--c-ink);
  border-right: 4px solid var(--c-ink);
  padding: 6px 10px;
}
.start {
  align-self: flex-start;
}
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 8px 10px;
}
.form label {
  font-size: 12px;
  color: var(--c-quiet);
}
.wide {
  grid-column: 1 / -1;
}
</style>
