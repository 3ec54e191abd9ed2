<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { bytes } from '../../kit/bytes'

// What of a project takes how much of the disk, and what makes it less.
const props = defineProps<{ parts: readonly Schemas['StoragePart'][] }>()
const most = computed(() => Math.max(1, ...props.parts.map((p) => p.bytes)))
const shown = computed(() => props.parts.filter((p) => p.bytes > 0))
</script>

<template>
  <table class="grid parts">
    <thead>
      <tr>
        <th>{{ $t('site.parts.part') }}</th>
        <th class="n">{{ $t('site.parts.size') }}</th>
        <th />
        <th>{{ $t('site.parts.less') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="p in shown" :key="p.part">
        <td>{{ $t($word('site.parts.of', p.part)) }}</td>
        <td class="n mono">{{ bytes(p.bytes) }}</td>
        <td aria-hidden="true">
          <div class="track">
            <span class="bar" :style="{ width: Math.max(2, (p.bytes / most) * 100) + '%' }" />
          </div>
        </td>
        <td class="quiet mend">{{ $t($word('site.parts.mend', p.part)) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.parts {
  margin: 8px 0 16px;
}
.n {
  text-align: right;
  white-space: nowrap;
}
.track {
  width: 80px;
}
.mend {
  white-space: normal;
}
.bar {
  display: block;
  height: 8px;
  border-radius: 2px;
  background: var(--c-spruce);
}
</style>
