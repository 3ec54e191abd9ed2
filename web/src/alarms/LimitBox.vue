<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, sentence } from '../api/client'
import { useAsked } from '../desk/asked'
import type { Standing } from './useAlarms'

/** Another limit for an alarm that allows it, with what that asks; it holds at once and lies over the release. */
const props = defineProps<{ project: string; alarm: Standing }>()
const emit = defineEmits<{ done: [] }>()
const { t } = useI18n({ useScope: 'global' })
const asked = useAsked()
const text = ref(props.alarm.setLimit ?? '')
const problem = ref('')
async function send(limit?: number) {
  try {
    const doing = {
      title: t('alarm.setLimit'),
      says: `${props.alarm.path} · ${props.alarm.name}: ${props.alarm.setLimit} → ${limit ?? t('alarm.ownLimit')}`,
    }
    const set = await asked.send(doing, (answer) =>
      ask(
        api.PUT('/api/projects/{project}/alarm-limits/{id}', {
          params: { path: { project: props.project, id: props.alarm.id } },
          body: { limit, ...answer },
        }),
      ),
    )
    if (set) emit('done')
  } catch (e) {
    problem.value = sentence(e)
  }
}
const number = () => Number(text.value.trim().replace(',', '.'))
</script>

<template>
  <form class="limit" @submit.prevent="send(number())">
    <label>
      {{ $t('alarm.newLimit') }}
      <input v-model="text" class="plain mono" inputmode="decimal" />
    </label>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div class="acts">
      <button type="submit" :disabled="!text.trim() || Number.isNaN(number())">
        {{ $t('alarm.setLimit') }}
      </button>
      <button type="button" @click="send()">{{ $t('alarm.ownLimit') }}</button>
    </div>
  </form>
</template>

<style scoped>
.limit {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 14px;
  color: var(--c-quiet);
}
input {
  min-height: 44px;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
button {
  min-height: 44px;
  padding: 0 14px;
  border: 1.5px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 15px;
  font-weight: 600;
  cursor: pointer;
}
button:disabled {
  opacity: 0.5;
}
</style>
