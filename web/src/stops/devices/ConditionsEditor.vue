<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FieldText from '../../kit/FieldText.vue'
import TagField from '../../tags/TagField.vue'
import TypedInput from '../../kit/TypedInput.vue'
import { word } from '../../i18n/word'

// The parts of the controller that tell by a code how they are, each with the
// list of its codes. A list comes from a spreadsheet by pasting it.
type Condition = Schemas['Condition']
type Code = Schemas['Code']
const props = defineProps<{ groups: Condition[]; problem?: string }>()
const emit = defineEmits<{ set: [groups: Condition[]] }>()
const { t } = useI18n()
const open = ref(-1)
const levels = ['good', 'attention', 'fault'] as const
const offered = ['program', 'motion', 'fieldBus', 'network', 'power'] as const

const change = (i: number, next: Partial<Condition>) =>
  emit(
    'set',
    props.groups.map((g, k) => (k === i ? { ...g, ...next } : g)),
  )
const codesOf = (i: number) => props.groups[i]!.codes ?? []
const setCodes = (i: number, codes: Code[]) => change(i, { codes: codes.length ? codes : undefined })
const changeCode = (i: number, k: number, next: Partial<Code>) =>
  setCodes(
    i,
    codesOf(i).map((c, at) => (at === k ? { ...c, ...next } : c)),
  )
function add() {
  const taken = props.groups.map((g) => g.name)
  const name =
    offered.map((o) => t(word('conditions', o))).find((n) => !taken.includes(n)) ??
    t('conditions.group', { n: props.groups.length + 1 })
  open.value = props.groups.length
  emit('set', [...props.groups, { name, tag: '' }])
}
function addCode(i: number) {
  const used = codesOf(i)
    .map((c) => Number(c.code))
    .filter(Number.isFinite)
  setCodes(i, [
    ...codesOf(i),
    { code: String(Math.max(-1, ...used) + 1), level: used.length ? 'fault' : 'good' },
  ])
}
/** Lines of code, state and meaning, or of code and meaning: those with a code that is there already take its place. */
function paste(i: number, e: ClipboardEvent) {
  const lines = (e.clipboardData?.getData('text') ?? '').split(/\r?\n/).filter((l) => l.trim())
  const cells = lines.map((l) => l.split(/\t|;/).map((c) => c.trim()))
  if (!cells.some((c) => c.length > 1)) return
  e.preventDefault()
  const codes = new Map(codesOf(i).map((c) => [c.code.toLowerCase(), c]))
  for (const [code, ...rest] of cells) {
    if (!code) continue
    const said = rest[0]?.toLowerCase() ?? ''
    const level = levels.find((l) => l === said || t(word('controller.level', l)).toLowerCase() === said)
    codes.set(code.toLowerCase(), {
      code,
      level: level ?? (code === '0' ? 'good' : 'fault'),
      text: (level ? rest.slice(1) : rest).join('; ') || undefined,
    })
  }
  setCodes(i, [...codes.values()])
}
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
</script>

<template>
  <div>
    <div class="head">
      <h2>{{ $t('conditions.title') }}</h2>
      <button class="bare" :aria-label="$t('conditions.add')" :title="$t('conditions.add')" @click="add">
        <v-icon :icon="mdiPlus" size="18" />
      </button>
    </div>
    <div v-for="(g, i) in groups" :key="i" class="group">
      <div class="fields">
        <FieldText
          :label="$t('common.name')"
          :model-value="g.name"
          @update:model-value="change(i, { name: $event.trim() })" />
        <TagField
          :label="$t('conditions.tag')"
          :model-value="g.tag"
          @update:model-value="change(i, { tag: $event })" />
      </div>
      <div class="foot">
        <button class="bare link" :aria-expanded="open === i" @click="open = open === i ? -1 : i">
          {{ $t('controller.codes', { n: g.codes?.length ?? 0 }) }}
        </button>
        <span class="grow" />
        <button
          class="bare"
          :aria-label="$t('conditions.remove', { name: g.name })"
          :title="$t('conditions.remove', { name: g.name })"
          @click="
            emit(
              'set',
              groups.filter((_, k) => k !== i),
            )
          ">
          <v-icon :icon="mdiClose" size="16" />
        </button>
      </div>
      <div v-if="open === i" class="codes" @paste="paste(i, $event)">
        <div v-for="(c, k) in g.codes ?? []" :key="c.code" class="line">
          <TypedInput
            class="plain mono"
            :value="c.code"
            :aria-label="$t('conditions.code')"
            @change="changeCode(i, k, { code: text($event) })" />
          <select
            class="plain"
            :value="c.level"
            :aria-label="$t('conditions.level')"
            @change="changeCode(i, k, { level: text($event) as Code['level'] })">
            <option v-for="l in levels" :key="l" :value="l">{{ $t($word('controller.level', l)) }}</option>
          </select>
          <TypedInput
            class="plain"
            :value="c.text ?? ''"
            :title="c.text"
            :aria-label="$t('conditions.meaning')"
            @change="changeCode(i, k, { text: text($event) || undefined })" />
          <button
            class="bare"
            :aria-label="$t('common.delete')"
            @click="
              setCodes(
                i,
                codesOf(i).filter((_, at) => at !== k),
              )
            ">
            <v-icon :icon="mdiClose" size="16" />
          </button>
        </div>
        <button class="bare link" @click="addCode(i)">+ {{ $t('conditions.code') }}</button>
        <textarea
          class="plain mono"
          rows="2"
          :aria-label="$t('conditions.paste')"
          :placeholder="$t('conditions.paste')" />
      </div>
    </div>
    <div v-if="problem" class="err" role="alert">{{ problem }}</div>
  </div>
</template>

<style scoped>
.head,
.foot {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 4px;
}
.group {
  border-left: 3px solid var(--c-line);
  padding-left: 10px;
  margin-bottom: 10px;
}
.grow {
  flex: 1;
}
.link {
  color: var(--c-spruce);
}
.codes {
  display: grid;
  gap: 4px;
}
.line {
  display: grid;
  grid-template-columns: 56px 96px 1fr 20px;
  gap: 4px;
  align-items: center;
}
</style>
