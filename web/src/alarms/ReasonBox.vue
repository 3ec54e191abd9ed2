<script setup lang="ts">
import { computed, ref } from 'vue'
import DialogBox from '../kit/DialogBox.vue'

/** Asks why an alarm is set aside, and for how long where that has an end. */
const props = defineProps<{ title: string; longest: number }>()
const emit = defineEmits<{ send: [reason: string, minutes: number]; close: [] }>()
const reason = ref('')
const choices = computed(() => [15, 30, 60, 120, 240, 480, 1440].filter((m) => m <= props.longest))
const minutes = ref(choices.value.at(-1) ?? props.longest)
if (choices.value.includes(60)) minutes.value = 60
</script>

<template>
  <DialogBox :label="title" @close="emit('close')">
    <form class="card" @submit.prevent="reason.trim() && emit('send', reason.trim(), minutes)">
      <h2>{{ title }}</h2>
      <label>
        {{ $t('alarm.why') }}
        <input v-model="reason" class="plain" autofocus />
      </label>
      <div v-if="longest" class="times" role="radiogroup" :aria-label="$t('alarm.howLong')">
        <button
          v-for="m in choices"
          :key="m"
          type="button"
          role="radio"
          :aria-checked="minutes === m"
          :class="{ on: minutes === m }"
          @click="minutes = m">
          {{ m < 60 ? `${m} min` : `${m / 60} h` }}
        </button>
      </div>
      <div class="acts">
        <button type="button" @click="emit('close')">{{ $t('common.cancel') }}</button>
        <button type="submit" class="go" :disabled="!reason.trim()">{{ title }}</button>
      </div>
    </form>
  </DialogBox>
</template>

<style scoped>
.card {
  width: min(440px, 96vw);
  background: var(--c-sheet);
  border-radius: 6px;
  padding: 18px 24px;
  display: grid;
  gap: 12px;
}
h2 {
  font-size: 18px;
  margin: 0;
}
input {
  width: 100%;
  min-height: 44px;
}
.times,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.acts {
  justify-content: flex-end;
}
button {
  min-height: 44px;
  padding: 0 14px;
  border: 1.5px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 16px;
  cursor: pointer;
}
.on {
  border-color: var(--c-spruce);
  background: var(--c-tint);
}
.go {
  background: var(--c-spruce);
  color: var(--c-on-spruce);
  border-color: var(--c-spruce);
  font-weight: 650;
}
.go:disabled {
  opacity: 0.4;
}
</style>
