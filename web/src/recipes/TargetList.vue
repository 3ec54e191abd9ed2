<script setup lang="ts">
import { computed } from 'vue'
import NameBox from '../kit/NameBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import type { Book, OpenBook } from './useBook'
import type { Deliveries } from './useDeliveries'

// What each target runs, whether that is still as it was sent, and what earlier
// deliveries left there for somebody to deal with.
const props = defineProps<{ book: Book; open: OpenBook; deliveries: Deliveries; only?: string }>()
const d = props.deliveries
const rows = computed(() =>
  d.states.value
    .filter((s) => props.only === undefined || s.target === props.only)
    .map((s) => ({ ...s, target: props.book.targets.find((t) => t.id === s.target) }))
    .filter((s) => s.target),
)
const beside = (id: string) => props.open.columns.value.some((c) => c.target === id)
</script>

<template>
  <section v-if="rows.length">
    <h2>{{ $t('recipe.targets') }}</h2>
    <p v-if="d.silent.value" class="problem" role="status">{{ $t('recipe.silent') }}</p>
    <ul class="targets" :class="{ past: d.silent.value }">
      <li v-for="s in rows" :key="s.target!.id">
        <div class="line">
          <strong>{{ s.target!.path }}</strong>
          <button
            class="chip"
            :class="{ on: beside(s.target!.id) }"
            @click="open.beside({ recipe: '', version: 0, target: s.target!.id })">
            {{ $t('recipe.compare') }}
          </button>
          <NameBox
            v-if="book.mayWrite && beside(s.target!.id)"
            :label="$t('recipe.read')"
            :hint="$t('recipe.newName')"
            @named="open.read(s.target!.id, $event)" />
        </div>
        <div v-if="s.runs">
          {{ $t('recipe.runs', { name: s.runs.title, n: s.runs.version }) }}
          <span v-if="s.changed" class="warn">≠ {{ $t('recipe.changedThere', { n: s.changed }) }}</span>
          <span v-else-if="s.unknown" class="quiet">{{ $t('recipe.unknownThere', { n: s.unknown }) }}</span>
          <div class="quiet">{{ s.runs.person }}, {{ moment(s.runs.began, dayAndTime) }}</div>
        </div>
        <div v-else class="quiet">{{ $t('recipe.runsNone') }}</div>
        <div v-for="x in s.open" :key="x.seq" class="problem" role="alert">
          <strong>{{ $t('recipe.left', { name: x.title, n: x.version }) }}</strong>
          <div>{{ x.reason }}</div>
          <div v-if="s.target!.may" class="acts">
            <button class="chip" @click="d.act(x.seq, 'putback')">{{ $t('recipe.putBack') }}</button>
            <button class="chip" @click="open.open(x.recipe, x.version)">{{ $t('recipe.finish') }}</button>
            <NameBox
              :label="$t('recipe.leave')"
              :hint="$t('recipe.leaveWhy')"
              @named="d.act(x.seq, 'accept', $event)" />
          </div>
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.targets {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  font-size: 13px;
}
.past {
  opacity: 0.6;
}
li {
  padding: 6px 0;
}
.line,
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.acts,
.problem {
  margin-top: 6px;
}
</style>
