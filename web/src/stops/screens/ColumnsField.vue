<script setup lang="ts">
import { computed } from 'vue'

/** The columns of a list of alarms: each is put at the end, or taken away. */
const props = defineProps<{ label: string; modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: string] }>()
const all = ['tab', 'time', 'path', 'name', 'text', 'state', 'value', 'limit', 'area', 'group']
const chosen = computed(() => props.modelValue.split(',').map((c) => c.trim()).filter((c) => all.includes(c)))
const flip = (c: string) => emit('update:modelValue', (chosen.value.includes(c) ? chosen.value.filter((x) => x !== c) : [...chosen.value, c]).join(','))
</script>

<template>
  <div class="field">
    <label>{{ label }}</label>
    <div class="columns" role="group" :aria-label="label"><button v-for="c in all" :key="c" type="button" class="chip" :class="{ on: chosen.includes(c) }" :aria-pressed="chosen.includes(c)" @click="flip(c)"><template v-if="chosen.includes(c)">{{ chosen.indexOf(c) + 1 }} · </template>{{ $t('alarmColumn.' + c) }}</button></div>
  </div>
</template>

<style scoped>
.columns { display: flex; flex-wrap: wrap; gap: 4px; }
.on { background: var(--c-tint); border-color: var(--c-spruce); }
</style>
