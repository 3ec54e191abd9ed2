<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { onMounted, ref } from 'vue'
import { useArrows } from '../kit/useArrows'

// Digits for a finger, a keyboard, or arrows and Enter alone; act names what the last key
// does.
const props = defineProps<{ title: string; busy: boolean; act: string }>()
const emit = defineEmits<{ back: []; enter: [pin: string] }>()
const pin = ref('')

function press(k: string) {
  if (props.busy) return
  if (k === '⌫') pin.value = pin.value.slice(0, -1)
  else if (k === '↵') {
    emit('enter', pin.value)
    pin.value = ''
  } else if (pin.value.length < 8) pin.value += k
}
const pad = ref<HTMLElement>()
/** Arrows brought the focus to a key: Enter presses that one. Else it gives the PIN. */
let arrowed = false
useArrows(pad, () => (arrowed = true))
onMounted(() => pad.value?.querySelector<HTMLElement>('.keys button')?.focus())
useEventListener('keydown', (e: KeyboardEvent) => {
  if (e.key === 'Enter' && arrowed && pad.value?.contains(document.activeElement)) return
  arrowed = arrowed && !/^\d$/.test(e.key)
  if (/^\d$/.test(e.key)) press(e.key)
  else if (e.key === 'Backspace') press('⌫')
  else if (e.key === 'Enter' && pin.value) {
    e.preventDefault()
    press('↵')
  }
})
</script>

<template>
  <div ref="pad" class="pad" @pointerdown="arrowed = false">
    <div class="who">
      <button class="bare" @click="emit('back')">‹ {{ $t('sign.other') }}</button>
      <strong>{{ title }}</strong>
    </div>
    <div class="dots mono" :aria-label="$t('sign.pin')">{{ '●'.repeat(pin.length) || $t('sign.pin') }}</div>
    <div class="keys">
      <button
        v-for="k in ['1', '2', '3', '4', '5', '6', '7', '8', '9', '⌫', '0', '↵']"
        :key="k"
        :class="{ enter: k === '↵' }"
        :disabled="k === '↵' && pin.length < 4"
        :aria-label="k === '⌫' ? $t('sign.erase') : k === '↵' ? act : k"
        @click="press(k)">
        {{ k }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.pad {
  max-width: 300px;
  margin: 0 auto;
  width: 100%;
}
.who {
  display: flex;
  justify-content: space-between;
  align-items: center;
  min-height: 44px;
}
.who button {
  color: var(--c-spruce);
  min-height: 44px;
}
.dots {
  border: 1px solid var(--c-line);
  border-radius: 4px;
  min-height: 44px;
  display: grid;
  place-items: center;
  margin-bottom: 10px;
  color: var(--c-quiet);
  letter-spacing: 3px;
}
.keys {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.keys button {
  min-height: 56px;
  font-size: 20px;
  font-weight: 600;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  cursor: pointer;
}
.keys button:active {
  background: var(--c-tint);
}
.keys .enter {
  background: var(--c-spruce);
  color: var(--c-on-spruce);
  border-color: var(--c-spruce);
}
.keys button:disabled {
  opacity: 0.45;
  cursor: default;
}
</style>
