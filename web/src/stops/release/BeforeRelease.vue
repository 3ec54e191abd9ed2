<script setup lang="ts">
import type { Schemas } from '../../api/client'

// What is open before the draft is released, and what the site asks for it.
type Before = Schemas['BeforeRelease']
const props = defineProps<{ open: Before }>()
defineEmits<{ changes: []; findings: [] }>()
const blocked = (n: number) => props.open.proved && n > 0
</script>

<template>
  <ul class="open" :aria-label="$t('release.open')">
    <li>
      <button class="chip" @click="$emit('changes')">
        {{ $t('release.things', { n: open.things }, open.things) }}
      </button>
    </li>
    <li>
      <button class="chip" :class="{ stops: open.inTheWay }" @click="$emit('findings')">
        {{ $t('release.counts', { ...open.findings }) }}
        <template v-if="open.inTheWay">· {{ $t('release.inTheWay', { n: open.inTheWay }) }}</template>
      </button>
    </li>
    <li v-if="open.points.all">
      <router-link class="chip" :class="{ stops: blocked(open.points.open) }" :to="{ name: 'register' }">
        {{ $t('release.points', { n: open.points.all - open.points.open, of: open.points.all }) }}
        <template v-if="open.points.outdated">
          · {{ $t('release.outdated', { n: open.points.outdated }) }}
        </template>
      </router-link>
    </li>
    <li v-if="open.elements.all">
      <router-link class="chip" :class="{ stops: blocked(open.elements.open) }" :to="{ name: 'screens' }">
        {{ $t('release.elements', { n: open.elements.all - open.elements.open, of: open.elements.all }) }}
        <template v-if="open.elements.outdated">
          · {{ $t('release.outdated', { n: open.elements.outdated }) }}
        </template>
      </router-link>
    </li>
    <li v-if="open.sign" class="quiet">
      {{ $t($word('release.signs', open.sign)) }}
      <template v-if="open.roles.length">({{ open.roles.join(', ') }})</template>
    </li>
  </ul>
</template>

<style scoped>
.open {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  list-style: none;
  margin: 0;
  padding: 8px 16px;
}
.open .chip {
  font-size: 14px;
}
.stops {
  color: var(--c-error);
  border-color: var(--c-error);
  font-weight: 650;
}
</style>
