<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import { cells } from './columns'

// One field of one recipe: entered in place, or read only. Enter and the arrows go
// on to the next cell, pasted cells of a spreadsheet are laid from here on.
const props = defineProps<{
  field: Schemas['FieldShown']
  cell: Schemas['SheetCell'] | undefined
  text: string | undefined
  enterable: boolean
  /** What does not hold, in sentences. */
  wrong: string
  /** What a target has now, or a value that is computed. */
  told: boolean
  name: string
  place: string
}>()
const { t } = useI18n({ useScope: 'global' })
const emit = defineEmits<{
  put: [block: string[][]]
  go: [down: number, right: number]
  fill: [from: 'above' | 'left']
  undo: []
}>()
const typed = ref<string>()
const focused = ref(false)
/** As people read it, and as it is edited while it is. */
const value = computed(() => {
  if (typed.value !== undefined) return typed.value
  const as = props.cell && !props.cell.bad && props.cell.text === props.text ? props.cell.shown : props.text
  return (focused.value ? props.text : as) ?? ''
})
const choices = computed(() => {
  if (props.field.states.length)
    return props.field.states.map((s) => ({ value: String(s.value), title: s.text }))
  return props.field.type === 'BOOL'
    ? [
        { value: 'false', title: t('recipe.off') },
        { value: 'true', title: t('recipe.on') },
      ]
    : []
})
const chosen = computed(() => {
  const is = props.text ?? ''
  if (props.field.type !== 'BOOL') return is
  return props.field.states.length ? (is === 'true' || is === '1' ? '1' : '0') : is
})
function commit() {
  const text = typed.value
  typed.value = undefined
  if (text !== undefined && text !== props.text) emit('put', [[text]])
}
async function enter(e: FocusEvent) {
  focused.value = true
  await nextTick()
  ;(e.target as HTMLInputElement).select()
}
function leave() {
  focused.value = false
  commit()
}
function go(down: number, right: number) {
  commit()
  emit('go', down, right)
}
function key(e: KeyboardEvent) {
  if (e.ctrlKey || e.metaKey) {
    if (e.key === 'd' || e.key === 'r') {
      e.preventDefault()
      emit('fill', e.key === 'd' ? 'above' : 'left')
    } else if (e.key === 'z' && typed.value === undefined) {
      e.preventDefault()
      emit('undo')
    }
    return
  }
  const input = e.target as HTMLInputElement
  const whole = typed.value === undefined
  if (e.key === 'Escape' && typed.value !== undefined) {
    typed.value = undefined
    e.stopPropagation()
  } else if (e.key === 'Enter' || e.key === 'ArrowDown') go(e.shiftKey ? -1 : 1, 0)
  else if (e.key === 'ArrowUp') go(-1, 0)
  else if (e.key === 'ArrowRight' && whole && input.selectionEnd === input.value.length) go(0, 1)
  else if (e.key === 'ArrowLeft' && whole && input.selectionStart === 0) go(0, -1)
  else return
  e.preventDefault()
}
function paste(e: ClipboardEvent) {
  const block = cells(e.clipboardData?.getData('text/plain') ?? '')
  if (block.length < 2 && (block[0]?.length ?? 0) < 2) return
  e.preventDefault()
  typed.value = undefined
  emit('put', block)
}
</script>

<template>
  <select
    v-if="enterable && choices.length"
    :value="chosen"
    :aria-label="name"
    :aria-invalid="!!wrong"
    :title="wrong || undefined"
    :data-cell="place"
    @change="emit('put', [[($event.target as HTMLSelectElement).value]])">
    <option v-if="text === undefined || text === ''" value=""></option>
    <option v-for="c in choices" :key="c.value" :value="c.value">{{ c.title }}</option>
  </select>
  <input
    v-else-if="enterable"
    class="mono"
    :value="value"
    :aria-label="name"
    :aria-invalid="!!wrong"
    :title="wrong || field.help || undefined"
    :data-cell="place"
    autocomplete="off"
    spellcheck="false"
    @focus="enter"
    @input="typed = ($event.target as HTMLInputElement).value"
    @keydown="key"
    @paste="paste"
    @blur="leave" />
  <span
    v-else
    class="shown mono"
    :class="{ differs: cell?.differs, bad: cell?.bad && told, invalid: wrong }"
    :title="wrong || cell?.bad || undefined">
    <template v-if="cell?.differs"><span class="sign" aria-hidden="true">≠</span></template>
    <template v-if="cell?.bad">{{ told ? '—' : (text ?? '—') }}</template>
    <template v-else>{{ cell?.shown ?? '' }}</template>
    <span v-if="cell?.differs" class="unseen">{{ $t('recipe.differs') }}</span>
  </span>
</template>

<style scoped>
input,
select {
  width: 100%;
  height: 30px;
  border: 1px solid transparent;
  border-radius: 2px;
  background: none;
  color: inherit;
  font-size: 13px;
  text-align: right;
  padding: 0 8px;
}
.fingers input,
.fingers select {
  height: 44px;
  font-size: 16px;
}
input:hover,
select:hover {
  border-color: var(--c-line);
}
input:focus {
  outline: 2px solid var(--c-spruce);
  outline-offset: -1px;
  background: var(--c-sheet);
}
[aria-invalid='true'],
.invalid {
  color: var(--c-error);
  text-decoration: underline wavy;
  text-underline-offset: 4px;
}
.shown {
  display: block;
  padding: 5px 9px;
  text-align: right;
  font-size: 13px;
  white-space: nowrap;
}
.differs {
  background: color-mix(in srgb, var(--c-warning) 14%, transparent);
  font-weight: 600;
}
.bad {
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 7px);
  color: var(--c-quiet);
}
.sign {
  margin-right: 6px;
  color: var(--c-warning);
}
.unseen {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
</style>
