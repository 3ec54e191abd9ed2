<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import DialogBox from '../kit/DialogBox.vue'
import type { TagInfo } from '../live/live'

// Where a value is entered: its limits, unit and step, the old value, and what
// was refused, with the entry kept.
const props = defineProps<{
  title: string
  tag: TagInfo | undefined
  old: string
  problem: string
  busy: boolean
}>()
const emit = defineEmits<{ enter: [text: string]; close: [] }>()
const text = ref('')
const pad = ref<HTMLElement>()
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
/** Keys of a keyboard enter as those of the pad do; a button that has the focus takes its own. */
function typed(e: KeyboardEvent) {
  const onButton = (e.target as HTMLElement).closest('button')
  if (e.key === 'Enter') {
    if (onButton) return
    e.preventDefault()
    if (text.value && !props.busy && !states.value.length) emit('enter', text.value)
    return
  }
  if (isText.value || states.value.length || e.ctrlKey || e.altKey || e.metaKey) return
  if (/^[\d.]$/.test(e.key)) press(e.key)
  else if (e.key === ',') press('.')
  else if (e.key === '-') press('±')
  else if (e.key === 'Backspace') press('⌫')
  else if (e.key === 'ArrowUp') step(1)
  else if (e.key === 'ArrowDown') step(-1)
  else return
  e.preventDefault()
}
const rows = ['1234567890', 'QWERTYUIOP', 'ASDFGHJKL-', 'ZXCVBNM./_']
const small = ref(false)
const keys = ['7', '8', '9', '4', '5', '6', '1', '2', '3', '±', '0', '.']
</script>

<template>
  <DialogBox :label="title" @close="emit('close')">
    <div ref="pad" class="pad" tabindex="-1" :class="{ text: isText }" @keydown="typed">
      <div class="about">
        <div class="head">
          <strong>{{ title }}</strong>
        </div>
        <div class="quiet mono path">{{ tag?.path }}</div>
        <dl>
          <dt>{{ $t('pad.now') }}</dt>
          <dd class="mono">{{ old }}</dd>
          <template v-if="(tag?.low || tag?.high) && !states.length">
            <dt>{{ $t('pad.limits') }}</dt>
            <dd class="mono">{{ tag?.low || '…' }} – {{ tag?.high || '…' }}</dd>
          </template>
          <template v-if="tag?.step && !states.length">
            <dt>{{ $t('pad.step') }}</dt>
            <dd class="mono">{{ tag.step }} {{ tag.unit }}</dd>
          </template>
        </dl>
        <template v-if="!states.length">
          <input v-if="isText" v-model="text" class="plain shown" :aria-label="title" autofocus />
          <div v-else class="shown mono" aria-live="polite">
            <span class="entered">{{ text || ' ' }}</span>
            <span class="quiet">{{ tag?.unit }}</span>
          </div>
        </template>
        <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      </div>
      <div class="hands">
        <div v-if="states.length" class="states">
          <button v-for="s in states" :key="s.value" :disabled="busy" @click="emit('enter', String(s.value))">
            {{ s.text }}
          </button>
        </div>
        <div v-else-if="isText" class="board">
          <div v-for="r in rows" :key="r">
            <button v-for="c in r" :key="c" type="button" @click="text += small ? c.toLowerCase() : c">
              {{ small ? c.toLowerCase() : c }}
            </button>
          </div>
          <div>
            <button
              type="button"
              class="wide"
              :aria-pressed="small"
              :aria-label="$t('pad.small')"
              @click="small = !small">
              {{ small ? 'abc' : 'ABC' }}
            </button>
            <button type="button" class="space" :aria-label="$t('pad.space')" @click="text += ' '">␣</button>
            <button
              type="button"
              class="wide"
              :aria-label="$t('sign.erase')"
              @click="text = text.slice(0, -1)">
              ⌫
            </button>
          </div>
        </div>
        <div v-else class="keys">
          <button v-for="k in keys" :key="k" @click="press(k)">{{ k }}</button>
          <button :aria-label="$t('pad.less')" @click="step(-1)">▾</button>
          <button :aria-label="$t('pad.more')" @click="step(1)">▴</button>
          <button :aria-label="$t('sign.erase')" @click="press('⌫')">⌫</button>
        </div>
        <div class="do">
          <button class="cancel" @click="emit('close')">{{ $t('common.cancel') }}</button>
          <button v-if="!states.length" class="enter" :disabled="!text || busy" @click="emit('enter', text)">
            {{ $t('pad.enter') }}
          </button>
        </div>
      </div>
    </div>
  </DialogBox>
</template>

<style scoped>
.pad {
  outline: none;
  width: min(330px, 100vw);
  box-sizing: border-box;
  padding: 14px 18px 18px;
  display: grid;
  gap: 10px;
}
.pad.text {
  width: min(580px, 100vw);
}
.about,
.hands {
  min-width: 0;
  display: grid;
  gap: 8px;
  align-content: start;
}
.head {
  font-size: 18px;
  overflow-wrap: anywhere;
}
.path {
  font-size: 14px;
  overflow-wrap: anywhere;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 14px;
  margin: 0;
  font-size: 15px;
}
dt {
  color: var(--c-quiet);
}
dd {
  margin: 0;
  text-align: right;
  overflow-wrap: anywhere;
}
.shown {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  padding: 8px 12px;
  font-size: 24px;
  font-weight: 650;
  min-height: 36px;
  background: var(--c-paper);
  min-width: 0;
  width: 100%;
  box-sizing: border-box;
}
.entered {
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
  direction: rtl;
  unicode-bidi: plaintext;
}
.keys {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.keys button,
.states button {
  min-height: 48px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 20px;
  font-weight: 600;
  cursor: pointer;
}
.states {
  display: grid;
  gap: 8px;
}
.keys button:active {
  background: var(--c-tint);
}
.board {
  display: grid;
  gap: 6px;
}
.board div {
  display: flex;
  gap: 6px;
}
.board button {
  flex: 1;
  min-width: 0;
  min-height: 44px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 17px;
  font-weight: 600;
  cursor: pointer;
  padding: 0;
}
.board .wide {
  flex: 1.6;
}
.board .space {
  flex: 5;
}
.problem {
  font-size: 15px;
  overflow-wrap: anywhere;
}
.do {
  display: flex;
  gap: 8px;
}
.do button {
  flex: 1;
  min-height: 52px;
  border-radius: 4px;
  font-size: 18px;
  font-weight: 650;
  cursor: pointer;
}
.cancel {
  border: 1.5px solid var(--c-ink);
  background: var(--c-sheet);
  color: var(--c-ink);
}
.enter {
  border: 0;
  background: var(--c-spruce);
  color: var(--c-on-spruce);
}
.enter:disabled {
  opacity: 0.45;
}
/* A low panel: what is entered beside the keys, so that nothing needs scrolling. */
@media (max-height: 620px) {
  .pad {
    width: min(640px, 100vw);
    grid-template-columns: 1fr 1fr;
  }
  .pad.text {
    width: min(780px, 100vw);
    grid-template-columns: 1fr;
    padding: 8px 12px 12px;
  }
  .pad.text dl {
    display: none;
  }
}
</style>
