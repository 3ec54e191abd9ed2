<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import type { Schemas } from '../../api/client'
import { freshId } from '../../rail/project'
import TypedInput from '../../kit/TypedInput.vue'

// Poll rates by name; tags name a group and follow when its rate changes.
type Group = Schemas['Group']
const props = defineProps<{ groups: Group[]; problem?: string }>()
const emit = defineEmits<{ set: [groups: Group[]] }>()
const change = (i: number, next: Partial<Group>) =>
  emit(
    'set',
    props.groups.map((g, k) => (k === i ? { ...g, ...next } : g)),
  )
const add = () =>
  emit('set', [
    ...props.groups,
    { id: freshId('group'), name: 'rate ' + 'abcdefghij'[props.groups.length % 10], every: 1000 },
  ])
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
</script>

<template>
  <div>
    <div class="head">
      <h2>{{ $t('groups.title') }}</h2>
      <button class="bare" :aria-label="$t('groups.add')" :title="$t('groups.add')" @click="add">
        <v-icon :icon="mdiPlus" size="18" />
      </button>
    </div>
    <div v-for="(g, i) in groups" :key="g.id" class="line">
      <TypedInput
        class="plain"
        :value="g.name"
        :aria-label="$t('common.name')"
        @change="change(i, { name: text($event) })" />
      <TypedInput
        class="plain mono"
        :value="g.every"
        :aria-label="$t('devices.poll')"
        @change="change(i, { every: Number(text($event)) })" />
      <span class="quiet">ms</span>
      <label :title="$t('groups.neededWhy')">
        <input
          type="checkbox"
          :checked="g.needed"
          @change="change(i, { needed: ($event.target as HTMLInputElement).checked || undefined })" />
        {{ $t('groups.needed') }}
      </label>
      <button
        class="bare"
        :aria-label="$t('common.delete')"
        @click="
          emit(
            'set',
            groups.filter((_, k) => k !== i),
          )
        ">
        <v-icon :icon="mdiClose" size="16" />
      </button>
    </div>
    <div v-if="problem" class="err" role="alert">{{ problem }}</div>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  margin-bottom: 4px;
}
.line {
  display: grid;
  grid-template-columns: minmax(90px, 1fr) 70px 20px 18px;
  gap: 4px 6px;
  align-items: center;
  margin-bottom: 8px;
}
.line label {
  grid-row: 2;
  grid-column: 1 / -1;
  font-size: 12px;
  display: flex;
  gap: 4px;
  align-items: center;
}
</style>
