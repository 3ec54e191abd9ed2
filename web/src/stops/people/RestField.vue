<script setup lang="ts">
// After how many minutes without a touch somebody is signed out; none for never.
// Among others of its kind the words stand above, and not beside each.
const props = defineProps<{ label: string; minutes: number; among?: boolean }>()
const emit = defineEmits<{ set: [minutes: number] }>()
function change(e: Event) {
  const field = e.target as HTMLInputElement
  const minutes = Number(field.value.trim() || 0)
  if (Number.isInteger(minutes) && minutes >= 0 && minutes <= 1440) emit('set', minutes)
  else field.value = props.minutes ? String(props.minutes) : ''
}
</script>

<template>
  <label class="rest" :title="$t('rest.why')">
    <template v-if="!among">{{ $t('rest.after') }}</template>
    <input
      class="plain mono"
      inputmode="numeric"
      :aria-label="label"
      :value="minutes || ''"
      :placeholder="$t('rest.never')"
      @change="change" />
    min
  </label>
</template>

<style scoped>
.rest {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
  font-size: 13px;
}
input {
  width: 62px;
}
</style>
