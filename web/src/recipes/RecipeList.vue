<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import FilterBox from '../kit/FilterBox.vue'
import NameBox from '../kit/NameBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import RecipeMark from './RecipeMark.vue'
import type { Book, OpenBook, Recipe } from './useBook'
import type { TargetState } from './useDeliveries'

// The recipes of a book: found by name, opened by a press, ticked for what is done
// to many.
const props = withDefaults(
  defineProps<{
    book: Book
    open: OpenBook
    states: TargetState[]
    /** What of it is shown: search and filters, ticks for several, each one's state, who changed it. */
    searched?: boolean
    ticks?: boolean
    marked?: boolean
    signed?: boolean
  }>(),
  { searched: true, ticks: true, marked: true, signed: false },
)
const o = props.open
const ticked = ref(new Set<string>())
watch([() => props.book.id, o.gone], () => (ticked.value = new Set()))
const list = computed(() => o.page.value.list)
const whole = computed(() => list.value.length > 0 && list.value.every((r) => ticked.value.has(r.id)))
const path = (id: string) => props.book.targets.find((t) => t.id === id)?.path ?? ''
/** Where a recipe is by the last deliveries. */
const at = computed(() => {
  const out = new Map<string, string[]>()
  for (const s of props.states)
    if (s.runs) out.set(s.runs.recipe, [...(out.get(s.runs.recipe) ?? []), path(s.target)])
  return out
})
function tick(r: Recipe) {
  const next = new Set(ticked.value)
  if (!next.delete(r.id)) next.add(r.id)
  ticked.value = next
}
const tickAll = () => (ticked.value = new Set(whole.value ? [] : list.value.map((r) => r.id)))
async function remove(why: string) {
  if (await o.remove([...ticked.value], o.gone.value, why)) ticked.value = new Set()
}
function compare() {
  for (const id of ticked.value)
    if (!o.columns.value.some((c) => c.recipe === id)) o.beside({ recipe: id, version: 0 })
  ticked.value = new Set()
}
</script>

<template>
  <div class="recipes">
    <div v-if="searched" class="find">
      <FilterBox v-model="o.text.value" :label="$t('recipe.find')" :hint="$t('recipe.find')" />
      <div class="ways">
        <button
          v-for="s in ['', 'approved', 'draft'] as const"
          :key="s"
          class="chip"
          :class="{ on: !o.gone.value && o.state.value === s }"
          @click="((o.gone.value = false), (o.state.value = s))">
          {{ $t($word('recipe.show', s || 'all')) }}
        </button>
        <button class="chip" :class="{ on: o.gone.value }" @click="o.gone.value = !o.gone.value">
          {{ $t('recipe.show.gone') }}
        </button>
      </div>
    </div>
    <div v-if="ticked.size" class="many">
      <span>{{ $t('recipe.ticked', { n: ticked.size }) }}</span>
      <button v-if="!o.gone.value" class="chip" @click="compare">{{ $t('recipe.sideBySide') }}</button>
      <template v-if="book.mayWrite">
        <button v-if="o.gone.value" class="chip on" @click="remove('')">{{ $t('recipe.bringBack') }}</button>
        <NameBox v-else :label="$t('recipe.delete')" :hint="$t('recipe.deleteWhy')" @named="remove" />
      </template>
    </div>
    <ul class="list">
      <li v-if="ticks && list.length > 1" class="all">
        <label>
          <input type="checkbox" :checked="whole" @change="tickAll" />
          {{ $t('recipe.all') }}
        </label>
        <span class="quiet">{{ o.page.value.count.toLocaleString() }}</span>
      </li>
      <li v-for="r in list" :key="r.id" :class="{ on: o.first.value?.recipe === r.id }">
        <input
          v-if="ticks"
          type="checkbox"
          :checked="ticked.has(r.id)"
          :aria-label="$t('recipe.tick', { name: r.name })"
          @change="tick(r)" />
        <button class="bare name" @click="o.open(r.id)">
          <span class="line">
            <strong :title="r.name">{{ r.name }}</strong>
            <RecipeMark v-if="marked" :state="r.state" :version="r.latest" />
          </span>
          <span v-if="r.gone" class="quiet">
            {{ $t('recipe.goneBy', { person: r.goneBy, at: moment(r.gone, dayAndTime) }) }}
          </span>
          <span v-else-if="r.problems" class="err">{{ $t('recipe.problems', { n: r.problems }) }}</span>
          <span v-else-if="r.carried" class="warn">{{ $t('recipe.carried') }}</span>
          <span v-else-if="at.has(r.id)" class="quiet">
            {{ $t('recipe.in', { places: at.get(r.id)!.join(', ') }) }}
          </span>
          <span v-else-if="signed || o.first.value?.recipe === r.id" class="quiet">
            {{ $t('recipe.by', { person: r.person, at: moment(r.changed, dayAndTime) }) }}
          </span>
        </button>
      </li>
    </ul>
    <button v-if="list.length < o.page.value.count" class="chip more" @click="o.list(true)">
      {{ $t('recipe.more', { n: o.page.value.count - list.length }) }}
    </button>
    <p v-if="!list.length" class="quiet none">
      {{ $t(o.text.value ? 'recipe.noneFound' : o.gone.value ? 'recipe.noneGone' : 'recipe.none') }}
    </p>
  </div>
</template>

<style scoped>
.recipes {
  display: flex;
  flex-direction: column;
  min-height: 0;
  height: 100%;
}
.find {
  padding: 10px 12px 6px;
}
.ways,
.many {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 6px;
  align-items: center;
}
.many {
  margin: 0;
  padding: 4px 12px 8px;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow: auto;
  flex: 1;
  min-height: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 12px;
}
li.on {
  background: var(--c-tint);
}
li input {
  margin: 0;
  accent-color: var(--c-spruce);
}
.fingers li input {
  width: 22px;
  height: 22px;
}
.all {
  justify-content: space-between;
  font-size: 12px;
  color: var(--c-quiet);
  padding-bottom: 2px;
}
.all,
.all label {
  display: flex;
  align-items: center;
  gap: 8px;
}
.name {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  justify-content: center;
  padding: 5px 0;
  font-size: 13px;
}
.name > .quiet,
.name > .err,
.name > .warn {
  display: block;
  font-size: 12px;
}
.line {
  display: flex;
  align-items: center;
  gap: 6px;
}
.line strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.more {
  margin: 8px 12px;
}
.none {
  padding: 0 12px;
}
</style>
