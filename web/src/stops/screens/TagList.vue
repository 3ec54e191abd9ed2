<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, toRef, watch } from 'vue'
import { useTagValues } from '../../live/useTagValues'
import { useProject } from '../../rail/project'
import { usePicking } from '../../tags/usePicking'
import { useTagList } from '../../tags/useTagList'
import TagLine from './TagLine.vue'

// Tags that a filter leaves, by path, to be dragged onto the screen.
const props = defineProps<{ text: string }>()
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
const { picked, pick, drag } = usePicking((line) => list.row(line)?.tag.id)
</script>

<template>
  <div ref="scroller" class="list">
    <div class="space" :style="{ height: virtual.getTotalSize() + 'px' }">
      <TagLine
        v-for="{ v, r } in shown"
        :key="v.index"
        class="at"
        :style="{ transform: `translateY(${v.start}px)` }"
        :row="r"
        :name="r.path"
        :value="values.get(r.tag.id)"
        :on="picked.has(r.tag.id)"
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
