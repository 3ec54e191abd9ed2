<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref } from 'vue'
import { type Difference, howOf, placeOf, toldValue } from './changes'

// One thing that differs, and field by field how.
const props = defineProps<{ difference: Difference; ticked: boolean | undefined }>()
const emit = defineEmits<{ tick: [] }>()
const open = ref(false)
const how = computed(() => howOf(props.difference))
</script>

<template>
  <div class="row">
    <div class="line">
      <input
        v-if="ticked !== undefined"
        type="checkbox"
        :checked="ticked"
        :aria-label="difference.name"
        @change="emit('tick')" />
      <button class="bare open" :aria-expanded="open" @click="open = !open">
        <v-icon :icon="open ? mdiChevronDown : mdiChevronRight" size="18" />
        <span class="how" :class="how">{{ $t(`changes.is.${how}`) }}</span>
        <span class="kind quiet">{{ $t(`kind.${difference.kind}`) }}</span>
        <strong class="name">{{ difference.name }}</strong>
        <span v-if="difference.was" class="quiet">{{ $t('changes.was', { name: difference.was }) }}</span>
        <span class="by quiet">{{ difference.by.join(', ') }}</span>
      </button>
    </div>
    <table v-if="open" class="grid">
      <thead>
        <tr>
          <th>{{ $t('changes.field') }}</th>
          <th v-if="!difference.made">{{ $t('changes.then') }}</th>
          <th v-if="!difference.gone">{{ $t('changes.now') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in difference.fields" :key="f.path">
          <td>{{ placeOf(f.path) }}</td>
          <td v-if="!difference.made" class="mono value">{{ toldValue(f.before) }}</td>
          <td v-if="!difference.gone" class="mono value">{{ toldValue(f.after) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.row {
  border-bottom: 1px solid var(--c-line);
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 16px;
}
.line input {
  width: 16px;
  height: 16px;
  accent-color: var(--c-spruce);
}
.open {
  flex: 1;
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 36px;
  text-align: start;
}
.name {
  overflow-wrap: anywhere;
}
.by {
  margin-inline-start: auto;
}
.kind {
  flex: none;
  width: 90px;
}
.how {
  flex: none;
  width: 84px;
  border-inline-start: 4px solid var(--c-line);
  padding-inline-start: 6px;
}
.how.made {
  border-color: var(--c-spruce);
}
.how.changed {
  border-color: var(--c-ink);
}
.how.gone {
  text-decoration: line-through;
}
.grid {
  margin: 0 16px 10px 52px;
  width: auto;
}
.value {
  max-width: 46ch;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
</style>
