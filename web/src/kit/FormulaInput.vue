<script setup lang="ts">
import { autocompletion, completionKeymap, type CompletionContext } from '@codemirror/autocomplete'
import { history, historyKeymap, standardKeymap } from '@codemirror/commands'
import { EditorState, StateEffect, StateField } from '@codemirror/state'
import {
  Decoration,
  EditorView,
  keymap,
  placeholder as cmPlaceholder,
  type DecorationSet,
} from '@codemirror/view'
import { mdiPaletteOutline } from '@mdi/js'
import { onClickOutside, useDebounceFn } from '@vueuse/core'
import { onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../api/client'
import { useCatalogue } from '../rail/catalogue'
import { useProject } from '../rail/project'
import { colourLiterals, type ColourSpot } from './colourLiterals'
import ColourPicker from './ColourPicker.vue'

// A formula with completion on tags and functions. While it is typed the
// server checks it: the mistake is underlined at its column and said below,
// the present result stands at the right.
const props = defineProps<{
  label: string
  modelValue: string
  wants?: string
  placeholder?: string
  screen?: string
  args?: Record<string, string>
}>()
const emit = defineEmits<{ 'update:modelValue': [value: string] }>()
const project = useProject()
const catalogue = useCatalogue()
const host = ref<HTMLElement>()
const check = ref<Schemas['FormulaCheck']>()
let view: EditorView | undefined

const setMistake = StateEffect.define<{ from: number; to: number } | null>()
const mistake = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(marks, tr) {
    marks = marks.map(tr.changes)
    for (const e of tr.effects)
      if (e.is(setMistake))
        marks = e.value
          ? Decoration.set(Decoration.mark({ class: 'mistake' }).range(e.value.from, e.value.to))
          : Decoration.none
    return marks
  },
  provide: (f) => EditorView.decorations.from(f),
})

async function runCheck(formula: string) {
  if (!formula.trim()) {
    check.value = undefined
    view?.dispatch({ effects: setMistake.of(null) })
    return
  }
  const got = await ask(
    api.POST('/api/projects/{project}/formulas', {
      params: { path: { project: project.id } },
      body: { formula, wants: (props.wants ?? '') as 'number', screen: props.screen, args: props.args },
    }),
  ).catch(() => undefined)
  if (!view || view.state.doc.toString() !== formula) return
  check.value = got
  let at: { from: number; to: number } | null = null
  if (got && !got.ok && formula.length > 0) {
    const from = Math.min(Math.max(0, got.column), formula.length - 1)
    at = { from, to: Math.min(formula.length, from + Math.max(1, got.length)) }
  }
  view.dispatch({ effects: setMistake.of(at) })
}
const checkSoon = useDebounceFn(runCheck, 180)

async function complete(context: CompletionContext) {
  const word = context.matchBefore(/[A-Za-z][\w.[\]]*/)
  if (!word || (word.from === word.to && !context.explicit)) return null
  const page = await ask(
    api.GET('/api/projects/{project}/tags', {
      params: { path: { project: project.id }, query: { text: word.text.replaceAll('.', '*.*'), limit: 30 } },
    }),
  ).catch(() => undefined)
  const points = props.screen
    ? await ask(
        api.GET('/api/projects/{project}/screens/{id}/points', {
          params: { path: { project: project.id, id: props.screen }, query: { text: word.text } },
        }),
      ).catch(() => [])
    : []
  return {
    from: word.from,
    filter: false,
    options: [
      ...points.slice(0, 40).map((r) => ({ label: r.path, detail: r.kind, info: r.title || undefined })),
      ...(page?.rows ?? []).map((r) => ({
        label: r.path,
        detail: r.tag.type,
        info: r.tag.description || undefined,
      })),
      ...catalogue.functions
        .filter((f) => f.name.startsWith(word.text))
        .map((f) => ({ label: f.name, detail: f.usage, info: f.does })),
    ],
  }
}

// A colour in the formula is picked where it stands; a new one comes in at the
// cursor.
const { t } = useI18n()
const box = ref<HTMLElement>()
const picking = shallowRef<ColourSpot>()
onClickOutside(box, () => (picking.value = undefined))
function pickNew() {
  if (picking.value) return (picking.value = undefined)
  const { from, to } = view!.state.selection.main
  picking.value = { from, to, text: '' }
}
function picked(colour: string) {
  const spot = picking.value!
  const fresh = spot.text === ''
  view!.dispatch({ changes: { from: spot.from, to: spot.to, insert: fresh ? `"${colour}"` : colour } })
  const from = spot.from + (fresh ? 1 : 0)
  picking.value = { from, to: from + colour.length, text: colour }
  commit()
}

function commit() {
  const now = view?.state.doc.toString() ?? ''
  if (now !== props.modelValue) emit('update:modelValue', now)
  return true
}

onMounted(() => {
  view = new EditorView({
    parent: host.value!,
    state: EditorState.create({
      doc: props.modelValue,
      extensions: [
        autocompletion({ override: [complete], icons: false }),
        keymap.of([...completionKeymap, { key: 'Enter', run: commit }, ...standardKeymap, ...historyKeymap]),
        ...(props.wants === 'colour'
          ? [
              colourLiterals(
                (name) => catalogue.colours.includes(name),
                t('colour.pick'),
                (spot) => (picking.value = spot),
              ),
            ]
          : []),
        history(),
        mistake,
        EditorView.lineWrapping,
        cmPlaceholder(props.placeholder ?? ''),
        EditorView.contentAttributes.of({ 'aria-label': props.label }),
        EditorView.updateListener.of((u) => u.docChanged && checkSoon(u.state.doc.toString())),
        EditorView.domEventHandlers({ blur: () => void commit() }),
      ],
    }),
  })
  void runCheck(props.modelValue)
})
watch(
  () => props.modelValue,
  (v) => {
    if (view && v !== view.state.doc.toString()) {
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: v } })
      void runCheck(v)
    }
  },
)
onBeforeUnmount(() => view?.destroy())
</script>

<template>
  <div ref="box" class="field" @keydown.esc="picking = undefined">
    <label>{{ label }}</label>
    <div class="row" :class="{ wrong: check && !check.ok }">
      <div ref="host" class="text mono" />
      <button
        v-if="wants === 'colour'"
        type="button"
        class="bare"
        :title="$t('colour.pick')"
        :aria-label="$t('colour.pick')"
        :aria-expanded="!!picking"
        @click="pickNew">
        <v-icon :icon="mdiPaletteOutline" size="18" />
      </button>
      <span v-if="check?.ok" class="now mono" :class="{ bad: check.quality === 'bad' }" :title="check.type">
        {{ check.value }}
      </span>
    </div>
    <ColourPicker v-if="picking" :model-value="picking.text || 'ink'" @update:model-value="picked" />
    <div v-if="check && !check.ok" class="hint err" role="alert">
      {{ check.column >= 0 ? $t('formula.column', { n: check.column + 1 }) + ' ' : '' }}{{ check.message }}
    </div>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 6px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-paper);
  min-height: 34px;
  padding: 0 6px;
}
.row:focus-within {
  outline: 2px solid var(--c-spruce);
  outline-offset: -1px;
}
.row.wrong {
  border-color: var(--c-error);
}
.text {
  flex: 1;
  min-width: 0;
}
.now {
  background: var(--c-tint);
  color: var(--c-spruce);
  border-radius: 3px;
  padding: 1px 6px;
  font-weight: 600;
  max-width: 110px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.now.bad {
  color: var(--c-quiet);
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 7px);
}
.text :deep(.cm-editor) {
  background: none;
  font-size: 13px;
}
.text :deep(.cm-editor.cm-focused) {
  outline: none;
}
.text :deep(.cm-content) {
  font-family: var(--mono);
  caret-color: var(--c-ink);
  padding: 6px 0;
}
.text :deep(.colour-literal) {
  width: 14px;
  height: 14px;
  margin-right: 3px;
  padding: 0;
  border: 1px solid var(--c-quiet);
  border-radius: 3px;
  cursor: pointer;
  vertical-align: -2px;
}
.text :deep(.mistake) {
  text-decoration: underline wavy var(--c-error);
  text-underline-offset: 3px;
}
</style>

<style>
.cm-tooltip.cm-tooltip-autocomplete {
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  color: var(--c-ink);
  z-index: 3000;
}
.cm-tooltip-autocomplete ul li[aria-selected] {
  background: var(--c-spruce) !important;
  color: var(--c-on-spruce) !important;
}
.cm-completionDetail {
  margin-left: 1em;
  opacity: 0.75;
}
.cm-tooltip.cm-completionInfo {
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  padding: 4px 8px;
}
</style>
