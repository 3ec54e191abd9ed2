<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp, mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { typedNumber } from '../../kit/number'
import { useNotice } from '../../kit/problem'
import TypedInput from '../../kit/TypedInput.vue'
import { freshId, useProject } from '../../rail/project'
import type { Book } from '../../recipes/useBook'
import FieldBlock from './FieldBlock.vue'
import FieldsOfSheet from './FieldsOfSheet.vue'
import OpenTags from './OpenTags.vue'
import TagField from '../../tags/TagField.vue'

// The fields of a book as a table, edited in place; further ones are made from tags,
// as many as a pattern names.
const props = defineProps<{ book: Book; def: Schemas['Book'] }>()
const emit = defineEmits<{ set: [path: string, value: unknown] }>()
type Field = Schemas['Field']
const project = useProject()
const notice = useNotice()
const like = ref('')
const open = ref<string>()
const asking = ref<'sheet' | 'block' | 'open'>()
const homeless = computed(() => fields.value.some((f) => !f.tag && !f.formula))
const fields = computed(() => props.def.fields)

const put = (list: Field[]) => emit('set', '/fields', list)
const set = (i: number, part: Partial<Field>) => {
  const next: Record<string, unknown> = { ...fields.value[i]!, ...part }
  for (const key of Object.keys(next)) if (next[key] === '' && key !== 'name') delete next[key]
  put(fields.value.map((f, n) => (n === i ? (next as Field) : f)))
}
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
const number = (e: Event) => typedNumber(text(e)) ?? (text(e) || undefined)
function move(i: number, by: number) {
  const list = [...fields.value]
  const [f] = list.splice(i, 1)
  list.splice(i + by, 0, f!)
  put(list)
}
async function made(body: { like?: string; tags?: string[] }) {
  const params = { path: { project: project.id, book: props.book.id } }
  return await ask(api.POST('/api/projects/{project}/books/{book}/fields', { params, body })).catch(
    (e) => (notice.refuse(e), undefined),
  )
}
async function bringIn() {
  const list = await made({ like: like.value.trim() })
  if (!list) return
  if (!list.length) notice.say('—')
  else put([...fields.value, ...list])
}
/** A field goes to the tag that is chosen, or to the member that it is. */
async function goTo(i: number, tag: string) {
  if (!tag) return set(i, { tag: undefined, member: undefined })
  const list = await made({ tags: [tag] })
  if (list?.[0]) set(i, { tag: list[0].tag, member: list[0].member })
}
function add() {
  let n = fields.value.length + 1
  while (fields.value.some((f) => f.name === 'Field' + n)) n++
  put([...fields.value, { id: freshId('field'), name: 'Field' + n, type: 'REAL' } as Field])
}
const place = (id: string) => props.book.fields.find((f) => f.id === id)?.place ?? ''
</script>

<template>
  <section>
    <div class="bring">
      <h2>{{ $t('book.fieldsOf') }}</h2>
      <input
        v-model="like"
        class="plain mono"
        :placeholder="$t('book.like')"
        :aria-label="$t('book.likeHint')"
        @keydown.enter="bringIn" />
      <button class="chip" :disabled="!like.trim()" @click="bringIn">{{ $t('book.bringIn') }}</button>
      <button class="chip" @click="add">{{ $t('book.addField') }}</button>
      <button class="chip" @click="asking = 'sheet'">{{ $t('book.sheet') }}</button>
      <button v-if="!def.type && homeless" class="chip" @click="asking = 'block'">
        {{ $t('book.block') }}
      </button>
      <button v-if="fields.length" class="chip" @click="asking = 'open'">{{ $t('book.open') }}</button>
      <OpenTags v-if="asking === 'open'" :book="book.id" :name="def.name" @close="asking = undefined" />
      <FieldsOfSheet v-if="asking === 'sheet'" :book="book.id" @close="asking = undefined" />
      <FieldBlock v-if="asking === 'block'" :book="book.id" :name="def.name" @close="asking = undefined" />
    </div>
    <div class="scroll">
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('book.f.group') }}</th>
            <th>{{ $t('book.f.title') }}</th>
            <th>{{ $t('book.f.name') }}</th>
            <th>{{ $t('book.f.type') }}</th>
            <th>{{ $t('book.f.unit') }}</th>
            <th>{{ $t('book.f.low') }}</th>
            <th>{{ $t('book.f.high') }}</th>
            <th>{{ $t('book.f.step') }}</th>
            <th>{{ $t('book.f.default') }}</th>
            <th>{{ $t('book.f.place') }}</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="(f, i) in fields" :key="f.id">
            <tr :class="{ on: open === f.id }">
              <td class="named">
                <TypedInput
                  :value="f.group"
                  :aria-label="$t('book.f.group')"
                  @change="set(i, { group: text($event) })" />
              </td>
              <td class="named">
                <TypedInput
                  :value="f.title"
                  :aria-label="$t('book.f.title')"
                  @change="set(i, { title: text($event) })" />
              </td>
              <td class="mono wide">
                <TypedInput
                  :value="f.name"
                  :aria-label="$t('book.f.name')"
                  @change="set(i, { name: text($event) })" />
              </td>
              <td class="mono named">
                <TypedInput
                  :value="f.type"
                  :aria-label="$t('book.f.type')"
                  @change="set(i, { type: text($event).toUpperCase() })" />
              </td>
              <td class="short">
                <TypedInput
                  :value="f.unit"
                  :aria-label="$t('book.f.unit')"
                  @change="set(i, { unit: text($event) })" />
              </td>
              <td class="mono named">
                <TypedInput
                  :value="f.low"
                  :aria-label="$t('book.f.low')"
                  @change="set(i, { low: text($event) })" />
              </td>
              <td class="mono named">
                <TypedInput
                  :value="f.high"
                  :aria-label="$t('book.f.high')"
                  @change="set(i, { high: text($event) })" />
              </td>
              <td class="short mono">
                <TypedInput
                  :value="f.step"
                  :aria-label="$t('book.f.step')"
                  @change="set(i, { step: number($event) as number })" />
              </td>
              <td class="mono">
                <TypedInput
                  :value="f.default"
                  :disabled="!!f.formula"
                  :aria-label="$t('book.f.default')"
                  @change="set(i, { default: text($event) })" />
              </td>
              <td class="mono place" :title="place(f.id)">
                <button class="bare" @click="open = open === f.id ? undefined : f.id">
                  {{ f.formula ? '= ' + f.formula : place(f.id) || $t('book.stays') }}
                </button>
              </td>
              <td class="acts">
                <button class="bare" :disabled="i === 0" :aria-label="$t('book.up')" @click="move(i, -1)">
                  <v-icon :icon="mdiArrowUp" size="15" />
                </button>
                <button
                  class="bare"
                  :disabled="i === fields.length - 1"
                  :aria-label="$t('book.down')"
                  @click="move(i, 1)">
                  <v-icon :icon="mdiArrowDown" size="15" />
                </button>
                <button
                  class="bare"
                  :aria-label="$t('book.drop', { name: f.title || f.name })"
                  @click="put(fields.filter((x) => x.id !== f.id))">
                  <v-icon :icon="mdiClose" size="15" />
                </button>
              </td>
            </tr>
            <tr v-if="open === f.id" class="more">
              <td colspan="11">
                <div class="detail">
                  <TagField
                    :label="$t('book.f.place')"
                    :model-value="f.tag ?? ''"
                    @update:model-value="goTo(i, $event)" />
                  <button v-if="f.tag || f.member" class="chip" @click="goTo(i, '')">
                    {{ $t('book.stay') }}
                  </button>
                  <label>
                    {{ $t('book.f.formula') }}
                    <TypedInput
                      class="plain mono"
                      :value="f.formula"
                      @change="set(i, { formula: text($event), default: undefined })" />
                  </label>
                  <label>
                    {{ $t('book.f.decimals') }}
                    <TypedInput
                      class="plain mono tiny"
                      :value="f.decimals"
                      @change="set(i, { decimals: number($event) as number })" />
                  </label>
                  <label>
                    {{ $t('book.f.turn') }}
                    <select
                      class="plain"
                      :value="f.turn ?? ''"
                      @change="set(i, { turn: text($event) as 'first' })">
                      <option v-for="x in ['', 'first', 'last']" :key="x" :value="x">
                        {{ $t($word('book.turn', x || 'among')) }}
                      </option>
                    </select>
                  </label>
                  <label v-if="def.quantity">
                    <input type="checkbox" :checked="f.scales" @change="set(i, { scales: !f.scales })" />
                    {{ $t('book.f.scales') }}
                  </label>
                  <label class="help">
                    {{ $t('book.f.help') }}
                    <TypedInput class="plain" :value="f.help" @change="set(i, { help: text($event) })" />
                  </label>
                </div>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
      <p v-if="!fields.length" class="quiet">{{ $t('book.noFields') }}</p>
    </div>
  </section>
</template>

<style scoped>
.bring {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 8px;
}
.bring input {
  flex: 1 1 130px;
  max-width: 340px;
}
.scroll {
  overflow-x: auto;
}
.grid td {
  padding: 0 2px;
}
.grid td :deep(input) {
  width: 100%;
  min-width: 76px;
  height: 28px;
  border: 1px solid transparent;
  background: none;
  color: inherit;
  font-family: inherit;
  font-size: 13px;
  padding: 0 6px;
}
.grid td :deep(input:hover) {
  border-color: var(--c-line);
}
.wide {
  min-width: 190px;
}
.grid td.short :deep(input) {
  min-width: 48px;
  width: 52px;
}
.named {
  min-width: 128px;
}
.place {
  min-width: 150px;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  font-size: 12.5px;
}
.acts {
  white-space: nowrap;
}
.acts button {
  padding: 4px;
}
.acts button:disabled {
  opacity: 0.3;
}
.more td {
  white-space: normal;
  background: var(--c-paper);
}
.detail {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: flex-end;
  padding: 8px 6px 12px;
}
.detail label {
  display: grid;
  font-size: 12px;
  color: var(--c-quiet);
}
.detail :deep(input.plain) {
  border: 1px solid var(--c-line);
  min-width: 220px;
}
.detail :deep(input.tiny) {
  min-width: 60px;
  width: 60px;
}
.help {
  flex: 1 1 300px;
}
</style>
