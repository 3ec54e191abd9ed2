<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import NameBox from '../../kit/NameBox.vue'
import { useCatalogue } from '../../rail/catalogue'
import { freshId, useProject } from '../../rail/project'
import LookPreview from './LookPreview.vue'
import PropField from './PropField.vue'
import TypedInput from '../../kit/TypedInput.vue'

type States = Schemas['States']
type Case = Schemas['Case']

// Looks by the state of a value: cases tried in order, every look side by
// side. Kept by name, many elements share them.
const props = defineProps<{
  modelValue: States | undefined
  kind: string
  screen: string
  args: Record<string, string>
  element: Record<string, unknown>
}>()
const emit = defineEmits<{ 'update:modelValue': [states: States | undefined] }>()
const project = useProject()
const catalogue = useCatalogue()
const { t } = useI18n()
const open = ref(-1)
const set = computed(() => project.looks.find((l) => l.id === props.modelValue?.set))
const cases = computed<Case[]>(() => set.value?.cases ?? props.modelValue?.cases ?? [])
const settable = computed(() =>
  (catalogue.kind(props.kind)?.props ?? []).filter((p) => p.bindable && catalogue.looks.includes(p.name)),
)

const change = (next: Partial<States>) => emit('update:modelValue', { of: '', ...props.modelValue, ...next })
async function setCases(next: Case[]) {
  if (set.value)
    await project.edit(t('states.edited', { name: set.value.name }), [
      { kind: 'look', id: set.value.id, path: '/cases', value: next, was: set.value.cases },
    ])
  else change({ cases: next })
}
const alter = (i: number, c: Partial<Case>) =>
  setCases(cases.value.map((x, k) => (k === i ? clean({ ...x, ...c }) : x)))
const clean = (c: Case): Case =>
  Object.fromEntries(Object.entries(c).filter(([, v]) => v !== undefined && v !== '')) as unknown as Case
const add = () => {
  open.value = cases.value.length
  void setCases([...cases.value, { name: t('states.case', { n: cases.value.length + 1 }), look: {} }])
}
function move(i: number, by: number) {
  const next = [...cases.value]
  const [c] = next.splice(i, 1)
  next.splice(i + by, 0, c!)
  void setCases(next)
}
function look(i: number, name: string, v: unknown) {
  const next = { ...(cases.value[i]!.look as Record<string, unknown>), [name]: v }
  if (v === undefined) delete next[name]
  void alter(i, { look: next })
}
async function keep(name: string) {
  const id = freshId('look')
  if (
    !(await project.edit(t('states.kept', { name }), [
      { kind: 'look', id, path: '', value: { name, cases: cases.value } },
    ]))
  )
    change({ set: id, cases: undefined })
}
const number = (s: string) => (s.trim() === '' || !Number.isFinite(Number(s)) ? undefined : Number(s))
/** Moves the case that is open, which stays open. */
function shift(by: number) {
  move(open.value, by)
  open.value += by
}
function removeCase() {
  setCases(cases.value.filter((_, k) => k !== open.value))
  open.value = -1
}
</script>

<template>
  <div class="states">
    <div class="head">
      <h2>{{ $t('states.title') }}</h2>
      <button
        v-if="modelValue"
        class="bare"
        :aria-label="$t('states.off')"
        :title="$t('states.off')"
        @click="emit('update:modelValue', undefined)">
        <v-icon :icon="mdiClose" size="16" />
      </button>
      <button v-else class="chip" @click="change({})">{{ $t('states.on') }}</button>
    </div>
    <template v-if="modelValue">
      <FormulaInput
        :label="$t('states.of')"
        :model-value="modelValue.of"
        :screen="screen"
        :args="args"
        :placeholder="$t('inspector.formula')"
        @update:model-value="change({ of: $event })" />
      <FieldSelect
        :label="$t('states.set')"
        :model-value="modelValue.set ?? ''"
        :options="[
          { value: '', title: $t('states.own') },
          ...project.looks.map((l) => ({ value: l.id, title: l.name })),
        ]"
        @update:model-value="change({ set: $event || undefined, cases: $event ? undefined : cases })" />
      <div class="looks">
        <button
          v-for="(c, i) in cases"
          :key="i"
          class="case"
          :class="{ on: open === i }"
          :aria-expanded="open === i"
          @click="open = open === i ? -1 : i">
          <LookPreview :kind="kind" :element="element" :look="c.look as Record<string, unknown>" />
          <span>{{ c.name || i + 1 }}</span>
        </button>
        <button class="case plus" :aria-label="$t('states.add')" @click="add">
          <v-icon :icon="mdiPlus" size="18" />
        </button>
      </div>
      <div v-if="cases[open]" class="edit">
        <label class="field">
          {{ $t('common.name') }}
          <TypedInput
            class="plain"
            :value="cases[open]!.name"
            @change="alter(open, { name: ($event.target as HTMLInputElement).value })" />
        </label>
        <div class="three">
          <label class="field">
            {{ $t('states.from') }}
            <TypedInput
              class="plain mono"
              :value="cases[open]!.from"
              @change="alter(open, { from: number(($event.target as HTMLInputElement).value) })" />
          </label>
          <label class="field">
            {{ $t('states.below') }}
            <TypedInput
              class="plain mono"
              :value="cases[open]!.to"
              @change="alter(open, { to: number(($event.target as HTMLInputElement).value) })" />
          </label>
          <label class="field">
            {{ $t('states.is') }}
            <TypedInput
              class="plain mono"
              :value="cases[open]!.is"
              @change="alter(open, { is: ($event.target as HTMLInputElement).value || undefined })" />
          </label>
        </div>
        <label class="field">
          {{ $t('states.when') }}
          <TypedInput
            class="plain mono"
            placeholder="value > 80"
            :value="cases[open]!.when"
            @change="alter(open, { when: ($event.target as HTMLInputElement).value || undefined })" />
        </label>
        <template v-for="p in settable" :key="p.name">
          <div v-if="p.name in cases[open]!.look" class="set">
            <PropField
              :prop="{ ...p, bindable: false }"
              :value="(cases[open]!.look as Record<string, unknown>)[p.name]"
              :formula="undefined"
              :differs="false"
              :screen="screen"
              :args="args"
              @set="look(open, p.name, $event)" />
            <button class="bare" :aria-label="$t('common.delete')" @click="look(open, p.name, undefined)">
              <v-icon :icon="mdiClose" size="16" />
            </button>
          </div>
        </template>
        <FieldSelect
          :label="$t('states.more')"
          model-value=""
          :options="[
            { value: '', title: '…' },
            ...settable
              .filter((p) => !(p.name in cases[open]!.look))
              .map((p) => ({ value: p.name, title: catalogue.propTitle(p) })),
          ]"
          @update:model-value="
            $event && look(open, $event, settable.find((p) => p.name === $event)!.default)
          " />
        <div class="order">
          <button class="chip" :disabled="!open" @click="shift(-1)">↑</button>
          <button class="chip" :disabled="open === cases.length - 1" @click="shift(1)">↓</button>
          <button class="chip" @click="removeCase">
            {{ $t('common.delete') }}
          </button>
        </div>
      </div>
      <NameBox
        v-if="!modelValue.set && cases.length"
        :label="$t('states.keep')"
        :hint="$t('states.name')"
        @named="keep" />
    </template>
  </div>
</template>

<style scoped>
.states {
  display: grid;
  gap: 10px;
  border-top: 1px solid var(--c-line);
  padding-top: 10px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.head h2 {
  font-size: 14px;
}
.looks {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.case {
  display: grid;
  justify-items: center;
  gap: 2px;
  border: 1px solid var(--c-line);
  background: var(--c-paper);
  border-radius: 4px;
  padding: 4px;
  cursor: pointer;
  min-width: 62px;
  max-width: 90px;
  font-size: 11px;
  color: var(--c-ink);
}
.case span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  max-width: 80px;
}
.case.on {
  border-color: var(--c-spruce);
  background: var(--c-tint);
}
.plus {
  align-content: center;
}
.edit {
  display: grid;
  gap: 8px;
  border-left: 3px solid var(--c-spruce);
  padding-left: 10px;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.field {
  display: grid;
  font-size: 12px;
  color: var(--c-quiet);
}
.set {
  display: flex;
  align-items: flex-start;
  gap: 4px;
}
.set > :first-child {
  flex: 1;
}
.order {
  display: flex;
  gap: 6px;
}
</style>
