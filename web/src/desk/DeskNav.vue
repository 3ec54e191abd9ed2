<script setup lang="ts">
import { mdiChevronLeft, mdiLockOutline } from '@mdi/js'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import AlarmTab from '../alarms/AlarmTab.vue'
import type { Place } from '../alarms/useWorst'
import type { Standing } from '../alarms/useAlarms'

// The row of screens along the bottom. Where it does not fit, it folds into
// levels: first the areas, then the screens of one.
type Screen = Place & { locked?: boolean }
const props = defineProps<{
  places: Screen[]
  here: Screen | undefined
  areas: { id: string; name: string }[]
  worst: (place: Place, all: Place[]) => Standing | undefined
  unsure: boolean
}>()
const emit = defineEmits<{ go: [place: Screen] }>()
/** The least that a name with an alarm's tab needs, in pixels. */
const LEAST = 116
const row = ref<HTMLElement>()
const { width } = useElementSize(row)
const area = ref('')
const areaOf = (p: Screen | undefined) => (p?.area && props.areas.some((a) => a.id === p.area) ? p.area : '')
const folded = computed(
  () =>
    width.value > 0 &&
    props.places.length * LEAST > width.value &&
    new Set(props.places.map(areaOf)).size > 1,
)
watch(
  () => props.here,
  (p) => (area.value = areaOf(p)),
  { immediate: true },
)

interface Entry {
  key: string
  name: string
  on: boolean
  locked?: boolean
  worst?: Standing
  press: () => void
}
const placed = (p: Screen): Entry => ({
  key: p.id + p.name,
  name: p.name,
  on: p === props.here,
  locked: p.locked,
  worst: props.worst(p, props.places),
  press: () => emit('go', p),
})
const rank = { critical: 0, high: 1, medium: 2, low: 3 } as Record<string, number>
function level(id: string): Entry {
  const within = props.places.filter((p) => areaOf(p) === id)
  const worst = within
    .flatMap((p) => props.worst(p, props.places) ?? [])
    .sort((a, b) => rank[a.priority]! - rank[b.priority]!)[0]
  return {
    key: 'area ' + id,
    name: props.areas.find((a) => a.id === id)!.name,
    on: false,
    worst,
    press: () => (area.value = id),
  }
}
const entries = computed<Entry[]>(() => {
  if (!folded.value) return props.places.map(placed)
  if (area.value) return props.places.filter((p) => areaOf(p) === area.value).map(placed)
  const seen = new Set<string>()
  return props.places.flatMap((p) => {
    const of = areaOf(p)
    if (!of) return [placed(p)]
    if (seen.has(of)) return []
    seen.add(of)
    // An area with one screen needs no level of its own.
    return props.places.filter((x) => areaOf(x) === of).length === 1 ? [placed(p)] : [level(of)]
  })
})
/** What is wrong elsewhere must be seen from within a level too. */
const elsewhere = computed(() =>
  folded.value && area.value
    ? props.places
        .filter((p) => areaOf(p) !== area.value)
        .flatMap((p) => props.worst(p, props.places) ?? [])
        .sort((a, b) => rank[a.priority]! - rank[b.priority]!)[0]
    : undefined,
)
</script>

<template>
  <nav ref="row" class="nav" :aria-label="$t('editor.navigation')">
    <button v-if="folded && area" class="up" :aria-label="$t('desk.areas')" @click="area = ''">
      <span class="name">
        <v-icon :icon="mdiChevronLeft" size="22" />
        {{ $t('desk.areas') }}
      </span>
      <AlarmTab
        v-if="elsewhere"
        class="worst"
        :class="{ unsure }"
        :priority="elsewhere.priority"
        :state="elsewhere.state" />
    </button>
    <button
      v-for="e in entries"
      :key="e.key"
      :class="{ on: e.on }"
      :aria-current="e.on ? 'page' : undefined"
      @click="e.press()">
      <span class="name" :title="e.name">
        <v-icon v-if="e.locked" :icon="mdiLockOutline" size="20" />
        {{ e.name }}
      </span>
      <AlarmTab
        v-if="e.worst"
        class="worst"
        :class="{ unsure }"
        :priority="e.worst.priority"
        :state="e.worst.state" />
    </button>
  </nav>
</template>

<style scoped>
.nav {
  height: 68px;
  flex: none;
  display: flex;
  background: var(--c-rail);
  padding: 2px;
  gap: 2px;
  overflow-x: auto;
}
.nav button {
  flex: 1 0 64px;
  min-width: 0;
  border: 0;
  background: color-mix(in srgb, var(--c-rail-text) 9%, var(--c-rail));
  color: var(--c-rail-text);
  font-size: 17px;
  font-weight: 600;
  cursor: pointer;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 3px;
  padding: 0 6px;
}
.nav .up {
  flex: 0 0 auto;
}
.name {
  max-width: 100%;
  line-height: 1.15;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
  overflow-wrap: anywhere;
}
.nav button:has(.worst) .name {
  -webkit-line-clamp: 1;
}
.worst {
  font-size: 12px;
  max-width: 100%;
}
.worst.unsure {
  opacity: 0.4;
  filter: grayscale(1);
}
.worst:not(.filled) {
  background-color: var(--c-paper);
  color: var(--c-ink);
}
.on {
  background: var(--c-paper) !important;
  color: var(--c-ink) !important;
  box-shadow: inset 0 5px var(--c-rail-accent);
}
</style>
