<script setup lang="ts">
import { mdiAccountLockOutline, mdiHandBackRight, mdiHandBackRightOffOutline } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { AreaControl } from './useControl'

// Who has control of the area of the open screen, always in sight; it opens what can be
// done about it. A screen of no such area tells how many there are.
const props = defineProps<{ list: AreaControl[]; area: string }>()
const emit = defineEmits<{ open: [] }>()
const { t } = useI18n({ useScope: 'global' })
const here = computed(
  () =>
    props.list.find((c) => c.covers.includes(props.area)) ??
    (props.list.length === 1 ? props.list[0] : undefined),
)
const holder = computed(() => here.value?.holder)
const icon = computed(() => {
  if (here.value && !holder.value?.mine)
    return holder.value ? mdiAccountLockOutline : mdiHandBackRightOffOutline
  return mdiHandBackRight
})
const who = computed(() => {
  if (!here.value)
    return t('control.areas', { n: props.list.filter((c) => c.holder?.mine).length, of: props.list.length })
  if (!holder.value) return t('control.nobody')
  return holder.value.mine ? t('control.here') : holder.value.panel || holder.value.name
})
const name = computed(() => here.value?.name ?? t('control.title'))
</script>

<template>
  <button
    class="control"
    :class="{ elsewhere: here && !holder?.mine }"
    :aria-label="`${$t('control.title')}: ${name}, ${who}`"
    :title="`${$t('control.title')}: ${name}, ${who}`"
    @click="emit('open')">
    <v-icon :icon="icon" size="22" />
    <span class="says">
      <strong>{{ name }}</strong>
      <span>{{ who }}</span>
    </span>
  </button>
</template>

<style scoped>
.control {
  flex: none;
  min-height: 44px;
  min-width: 44px;
  max-width: 190px;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 10px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  cursor: pointer;
  text-align: left;
}
.control.elsewhere {
  border-style: dashed;
  background: var(--c-tint);
}
.says {
  min-width: 0;
  display: flex;
  flex-direction: column;
  line-height: 1.15;
  font-size: 14px;
}
.says > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media (max-width: 860px) {
  .control {
    max-width: 130px;
    padding: 0 6px;
    gap: 5px;
  }
  .says {
    font-size: 13px;
  }
}
</style>
