<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import { dayAndTime, moment } from '../kit/moment'
import type { Deliveries, Delivery } from './useDeliveries'

// The last deliveries of a book in short.
const props = defineProps<{ deliveries: Deliveries; only?: string; most: number }>()
const list = shallowRef<Delivery[]>([])
const seen = () =>
  props.deliveries.states.value.map((s) => `${s.runs?.seq} ${s.underWay?.seq} ${s.open.length}`).join()
watch(
  [seen, () => props.only],
  async () => {
    const got = await props.deliveries.list({ target: props.only }).catch(() => list.value)
    list.value = got.slice(0, props.most)
  },
  { immediate: true },
)
</script>

<template>
  <section v-if="list.length">
    <h2>{{ $t('recipe.last') }}</h2>
    <ul>
      <li v-for="x in list" :key="x.seq" :class="x.state">
        {{ $t('recipe.lastLine', { name: x.title, n: x.version, place: x.place }) }}
        <div class="quiet">
          {{ moment(x.began, dayAndTime) }} · {{ x.person }} · {{ $t($word('recipe.outcome', x.state)) }}
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  font-size: 13px;
}
li {
  padding: 4px 0 4px 20px;
  position: relative;
}
li::before {
  position: absolute;
  left: 0;
  font-weight: 700;
  content: '✗';
  color: var(--c-error);
}
li.delivered::before {
  content: '✓';
  color: var(--c-spruce);
}
li.running::before {
  content: '…';
  color: var(--c-quiet);
}
</style>
