<script setup lang="ts">
import { mdiFilterVariant } from '@mdi/js'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, toRef, watch } from 'vue'
import type { TagRow } from '../../api/client'
import ValueCell from '../../kit/ValueCell.vue'
import { useTagValues } from '../../live/useTagValues'
import { useProject } from '../../rail/project'
import { useTagList } from '../../tags/useTagList'

// Tags to drag onto the screen; several at once with Ctrl or Shift.
const project = useProject()
const list = useTagList()
const scroller = ref<HTMLElement>()
const picked = ref(new Set<string>())
const virtual = useVirtualizer(computed(() => ({ count: list.total.value, getScrollElement: () => scroller.value ?? null, estimateSize: () => 28, overscan: 10 })))
const rows = computed(() => virtual.value.getVirtualItems())
watch(rows, (r) => r.length && list.need(r[0]!.index, r[r.length - 1]!.index), { immediate: true })
const shown = computed(() => rows.value.flatMap((v) => {
  const r = list.row(v.index)
  return r ? [{ v, r }] : []
}))
const ids = computed(() => shown.value.map(({ r }) => r.tag.id).sort())
const values = useTagValues(toRef(project, 'id'), ids)

// With Shift everything from the last one that was picked, as far as it was
// read.
let last = -1
function pick(r: TagRow, at: number, e: MouseEvent) {
  if (e.shiftKey && last >= 0) {
    const range = Array.from({ length: Math.abs(at - last) + 1 }, (_, i) => list.row(Math.min(at, last) + i)?.tag.id).filter((id): id is string => !!id)
    picked.value = new Set([...(e.ctrlKey || e.metaKey ? picked.value : []), ...range])
    return
  }
  last = at
  const next = e.ctrlKey || e.metaKey ? new Set(picked.value) : new Set<string>()
  if (!next.delete(r.tag.id)) next.add(r.tag.id)
  picked.value = next
}
function drag(r: TagRow, e: DragEvent) {
  const tags = picked.value.has(r.tag.id) ? [...picked.value] : [r.tag.id]
  e.dataTransfer?.setData('application/x-rr-tags', JSON.stringify(tags))
}
</script>

<template>
  <div class="pane">
    <label class="filter"><v-icon :icon="mdiFilterVariant" size="16" /><input v-model="list.filter.value.text" class="mono" :placeholder="$t('tags.filter')" :aria-label="$t('tags.filter')" /></label>
    <div ref="scroller" class="list">
      <div class="space" :style="{ height: virtual.getTotalSize() + 'px' }">
        <div v-for="{ v, r } in shown" :key="v.index" class="row" draggable="true" :class="{ on: picked.has(r.tag.id) }" :style="{ transform: `translateY(${v.start}px)` }" :title="r.path + '\n' + (r.tag.description ?? '')" @click="pick(r, v.index, $event)" @dragstart="drag(r, $event)">
          <span class="mono name"><bdi>{{ r.path }}</bdi></span><ValueCell :value="values.get(r.tag.id)" />
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.pane { display: flex; flex-direction: column; min-height: 0; flex: 1; }
.filter { display: flex; align-items: center; gap: 6px; border: 1px solid var(--c-line); border-radius: 4px; background: var(--c-paper); padding: 0 8px; margin: 10px; min-height: 32px; }
.filter input { border: 0; outline: 0; background: none; color: inherit; width: 100%; font-size: 13px; }
.list { flex: 1; overflow: auto; }
.space { position: relative; }
.row { position: absolute; left: 0; right: 0; display: flex; align-items: center; gap: 4px; height: 28px; padding: 0 6px 0 12px; cursor: grab; }
.row:hover, .row.on { background: var(--c-tint); }
.name { flex: 1; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-size: 13px; direction: rtl; text-align: left; }
.row :deep(.value) { min-width: 0; font-size: 12px; }
</style>
