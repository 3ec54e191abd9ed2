<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { colour } from '../theme'
import ColourPicker from './ColourPicker.vue'

// A colour, shown with its name; pressing it opens the picker below.
const props = defineProps<{ label: string; modelValue: string | undefined; differs?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [colour: string] }>()
const { t, te } = useI18n()
const open = ref(false)
const box = ref<HTMLElement>()
onClickOutside(box, () => (open.value = false))
const says = computed(() => {
  const [name, share] = (props.modelValue ?? '').split(' ')
  if (!name) return props.differs ? t('inspector.differs') : '—'
  return (te('colour.' + name) ? t('colour.' + name) : name) + (share ? ' ' + share : '')
})
</script>

<template>
  <div ref="box" class="field" @keydown.esc.stop="open = false">
    <label>{{ label }}</label>
    <button
      type="button"
      class="now"
      :aria-label="label + ': ' + says"
      :aria-expanded="open"
      @click="open = !open">
      <span
        class="swatch"
        :class="{ none: modelValue === 'none' || !modelValue }"
        :style="{ background: modelValue && modelValue !== 'none' ? colour(modelValue) : undefined }" />
      <span>{{ says }}</span>
    </button>
    <ColourPicker
      v-if="open"
      :model-value="modelValue ?? 'none'"
      @update:model-value="emit('update:modelValue', $event)" />
  </div>
</template>

<style scoped>
.now {
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
  min-height: 32px;
  padding: 2px 8px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-paper);
  color: var(--c-ink);
  cursor: pointer;
  text-align: left;
}
.swatch {
  width: 34px;
  height: 18px;
  border: 1px solid var(--c-quiet);
  border-radius: 3px;
}
.swatch.none {
  background: linear-gradient(45deg, transparent 46%, var(--c-error) 46% 54%, transparent 54%);
}
</style>
