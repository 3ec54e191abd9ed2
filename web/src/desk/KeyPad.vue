<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import type { TagInfo } from '../live/live'

// Where a value is entered: its limits, unit and step, the old value, and what
// was refused, with the entry kept.
const props = defineProps<{ title: string; tag: TagInfo | undefined; old: string; problem: string; busy: boolean }>()
const emit = defineEmits<{ enter: [text: string]; close: [] }>()
const text = ref('')
const pad = ref<HTMLElement>()
// The keys are the pad's while it is open.
onMounted(() => pad.value?.focus())
const isText = computed(() => props.tag?.kind === 'STRING')
const states = computed(() => props.tag?.states ?? [])

function press(k: string) {
  if (k === '⌫') text.value = text.value.slice(0, -1)
  else if (k === '±') text.value = text.value.startsWith('-') ? text.value.slice(1) : '-' + text.value
  else if (k === '.') text.value += text.value.includes('.') ? '' : '.'
  else text.value += k
}
function step(by: number) {
  const now = Number((text.value || props.old).replace('−', '-').replace(/[^\d.-]/g, ''))
  const size = props.tag?.step || 1
  if (Number.isFinite(now)) text.value = (now + by * size).toFixed(Math.max(0, props.tag?.decimals ?? 0))
}
useEventListener('keydown', (e: KeyboardEvent) => {
  if (e.key === 'Escape') emit('close')
  else if (e.key === 'Enter') {
    e.preventDefault()
    if (text.value && !props.busy) emit('enter', text.value)
  } else if (isText.value) return
  else if (/^[\d.]$/.test(e.key)) press(e.key)
  else if (e.key === ',') press('.')
  else if (e.key === '-') press('±')
  else if (e.key === 'Backspace') press('⌫')
  else if (e.key === 'ArrowUp') step(1)
  else if (e.key === 'ArrowDown') step(-1)
})
const rows = ['1234567890', 'QWERTYUIOP', 'ASDFGHJKL-', 'ZXCVBNM./_']
const small = ref(false)
const keys = ['7', '8', '9', '4', '5', '6', '1', '2', '3', '±', '0', '.']
</script>

<template>
  <div class="back" @pointerdown.self="emit('close')">
    <div ref="pad" class="pad" tabindex="-1" :class="{ text: isText }" role="dialog" :aria-label="title">
      <div class="head"><strong>{{ title }}</strong><button class="bare close" :aria-label="$t('common.cancel')" @click="emit('close')">×</button></div>
      <div class="quiet mono path">{{ tag?.path }}</div>
      <dl>
        <dt>{{ $t('pad.now') }}</dt><dd class="mono">{{ old }}</dd>
        <template v-if="tag?.low || tag?.high"><dt>{{ $t('pad.limits') }}</dt><dd class="mono">{{ tag?.low || '…' }} – {{ tag?.high || '…' }}</dd></template>
        <template v-if="tag?.step"><dt>{{ $t('pad.step') }}</dt><dd class="mono">{{ tag.step }} {{ tag.unit }}</dd></template>
      </dl>
      <div v-if="states.length" class="states"><button v-for="s in states" :key="s.value" :disabled="busy" @click="emit('enter', s.text)">{{ s.text }}</button></div>
      <template v-else>
        <input v-if="isText" v-model="text" class="plain shown" :aria-label="title" autofocus />
        <div v-else class="shown mono" aria-live="polite"><span>{{ text || ' ' }}</span><span class="quiet">{{ tag?.unit }}</span></div>
        <div v-if="isText" class="board">
          <div v-for="r in rows" :key="r"><button v-for="c in r" :key="c" type="button" @click="text += small ? c.toLowerCase() : c">{{ small ? c.toLowerCase() : c }}</button></div>
          <div><button type="button" class="wide" :aria-pressed="small" :aria-label="$t('pad.small')" @click="small = !small">{{ small ? 'abc' : 'ABC' }}</button><button type="button" class="space" :aria-label="$t('pad.space')" @click="text += ' '">␣</button><button type="button" class="wide" :aria-label="$t('sign.erase')" @click="text = text.slice(0, -1)">⌫</button></div>
        </div>
        <div v-else class="keys">
          <button v-for="k in keys" :key="k" @click="press(k)">{{ k }}</button>
          <button :aria-label="$t('pad.less')" @click="step(-1)">▾</button><button :aria-label="$t('pad.more')" @click="step(1)">▴</button><button :aria-label="$t('sign.erase')" @click="press('⌫')">⌫</button>
        </div>
      </template>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <div class="do"><button class="enter" :disabled="!text || busy" @click="emit('enter', text)">{{ $t('pad.enter') }}</button></div>
    </div>
  </div>
</template>

<style scoped>
.back { position: absolute; inset: 0; background: color-mix(in srgb, var(--c-rail) 35%, transparent); display: grid; place-items: center; z-index: 20; }
.pad { outline: none; width: 330px; background: var(--c-sheet); border: 1px solid var(--c-ink); border-radius: 6px; padding: 14px 18px 18px; font-size: 16px; box-shadow: 0 14px 50px #0005; }
.head { display: flex; justify-content: space-between; align-items: center; font-size: 18px; }
.close { min-width: 44px; min-height: 44px; font-size: 26px; text-align: center; }
.path { font-size: 14px; margin-top: -8px; }
dl { display: grid; grid-template-columns: auto 1fr; gap: 2px 14px; margin: 10px 0; font-size: 15px; }
dt { color: var(--c-quiet); }
dd { margin: 0; text-align: right; }
.shown { display: flex; justify-content: space-between; border: 1.5px solid var(--c-ink); border-radius: 4px; padding: 8px 12px; font-size: 24px; font-weight: 650; min-height: 36px; background: var(--c-paper); }
.keys { display: grid; grid-template-columns: repeat(3, 1fr); gap: 8px; margin-top: 10px; }
.keys button, .states button { min-height: 48px; border: 1.5px solid var(--c-ink); border-radius: 4px; background: var(--c-sheet); font-size: 20px; font-weight: 600; cursor: pointer; }
.states { display: grid; gap: 8px; }
.keys button:active { background: var(--c-tint); }
.pad.text { width: 560px; }
.board { display: grid; gap: 6px; margin-top: 10px; }
.board div { display: flex; gap: 6px; }
.board button { flex: 1; min-height: 44px; border: 1.5px solid var(--c-ink); border-radius: 4px; background: var(--c-sheet); color: var(--c-ink); font-size: 17px; font-weight: 600; cursor: pointer; padding: 0; }
.board .wide { flex: 1.6; }
.board .space { flex: 5; }
.problem { margin-top: 10px; font-size: 15px; }
.enter { width: 100%; min-height: 52px; margin-top: 12px; border: 0; border-radius: 4px; background: var(--c-spruce); color: var(--c-on-spruce); font-size: 18px; font-weight: 650; cursor: pointer; }
.enter:disabled { opacity: 0.45; }
</style>
