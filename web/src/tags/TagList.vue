<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, toRef, watch } from 'vue'
import { useTagValues } from '../live/useTagValues'
import { useProject } from '../rail/project'
import { usePicking } from './usePicking'
import { useTagList } from './useTagList'
import TagLine from './TagLine.vue'

// Tags that a filter leaves, by path, to be dragged from or taken.
const props = defineProps<{ text: string; taken?: ReadonlySet<string> }>()
const emit = defineEmits<{ take: [id: string] }>()
const project = useProject()
const list = useTagList()
watch(
  () => props.text,
  (text) => (list.filter.value.text = text),
  { immediate: true },
)
const scroller = ref<HTMLElement>()
const options = computed(() => ({
  count: list.total.value,
  getScrollElement: () => scroller.value ?? null,
  estimateSize: () => 28,
  overscan: 10,
}))
const virtual = useVirtualizer(options)
const rows = computed(() => virtual.value.getVirtualItems())
watch(rows, (r) => r.length && list.need(r[0]!.index, r[r.length - 1]!.index), { immediate: true })
const shown = computed(() =>
  rows.value.flatMap((v) => {
    const r = list.row(v.index)
    return r ? [{ v, r }] : []
  }),
)
const values = useTagValues(
  toRef(project, 'id'),
  computed(() => shown.value.map(({ r }) => r.tag.id).sort()),
)
const { on, pick, drag } = usePicking(
  (line) => list.row(line)?.tag.id,
  () => ({ taken: props.taken, take: (id) => emit('take', id) }),
)

// By keyboard: arrows go, Space picks.
const current = ref(0)
async function key(e: KeyboardEvent) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[e.key]
  const row = list.row(current.value)
  if (step) {
    current.value = Math.max(0, Math.min(list.total.value - 1, current.value + step))
    virtual.value.scrollToIndex(current.value)
    await nextTick()
    scroller.value?.querySelector<HTMLElement>('[tabindex="0"]')?.focus()
  } else if ((e.key === ' ' || e.key === 'Enter') && row) pick(row.tag.id, current.value, e)
  else return
}
</script>

<template>
  <div
    ref="scroller"
    class="list"
    role="listbox"
    :aria-label="$t('stop.tags')"
    @keydown.down.up.enter.space.prevent.stop="key">
    <div class="space" :style="{ height: virtual.getTotalSize() + 'px' }">
      <TagLine
        v-for="{ v, r } in shown"
        :key="v.index"
        class="at"
        :style="{ transform: `translateY(${v.start}px)` }"
        :row="r"
        :name="r.path"
        :value="values.get(r.tag.id)"
        :on="on(r.tag.id)"
        role="option"
        :aria-selected="on(r.tag.id)"
        :tabindex="v.index === current ? 0 : -1"
        @focus="current = v.index"
        @click="pick(r.tag.id, v.index, $event)"
        @dragstart="drag(r.tag.id, $event)" />
    </div>
  </div>
</template>

<style scoped>
.list {
  flex: 1;
  overflow: auto;
}
.space {
  position: relative;
}
.at {
  position: absolute;
  left: 0;
  right: 0;
}
</style>
