<script setup lang="ts">
import { ref } from 'vue'
import { api, ask, sentence } from '../api/client'
import DialogBox from '../kit/DialogBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import type { Range } from './range'

// A note on a moment or a stretch of the recorded time, signed with who and when.
const props = defineProps<{ project: string; tag?: string; stretch: Range }>()
const emit = defineEmits<{ close: []; kept: [] }>()
const text = ref('')
const problem = ref('')
const busy = ref(false)
async function keep() {
  busy.value = true
  try {
    const { from, to } = props.stretch
    await ask(
      api.POST('/api/projects/{project}/trend/notes', {
        params: { path: { project: props.project } },
        body: { tag: props.tag, from: Math.round(from), to: Math.round(to), text: text.value },
      }),
    )
    emit('kept')
  } catch (e) {
    problem.value = sentence(e)
  }
  busy.value = false
}
</script>

<template>
  <DialogBox :label="$t('trend.note.title')" @close="emit('close')">
    <form class="note" @submit.prevent="keep">
      <h2>{{ $t('trend.note.title') }}</h2>
      <p class="mono">
        {{ moment(stretch.from, dayAndTime) }}
        <template v-if="stretch.to > stretch.from">– {{ moment(stretch.to, dayAndTime) }}</template>
      </p>
      <textarea v-model="text" class="plain" rows="3" maxlength="1000" :aria-label="$t('trend.note.text')" />
      <p v-if="problem" class="said" role="alert">{{ problem }}</p>
      <div class="acts">
        <button type="button" class="chip" @click="emit('close')">{{ $t('common.cancel') }}</button>
        <button type="submit" class="chip on" :disabled="busy || !text.trim()">
          {{ $t('trend.note.keep') }}
        </button>
      </div>
    </form>
  </DialogBox>
</template>

<style scoped>
.note {
  width: min(420px, 92vw);
  padding: 18px 22px;
  display: grid;
  gap: 10px;
}
h2,
p {
  margin: 0;
}
h2 {
  font-size: 18px;
}
.acts {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.said {
  color: var(--c-error);
}
</style>
