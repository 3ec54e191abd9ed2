<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'
import { useRoles } from '../../rail/useRoles'

/** What the site asks before the draft is released. */
type Rule = Schemas['ReleaseRule']
const project = useProject()
const { t } = useI18n()
const rule = computed<Rule>(() => project.overview?.site.release ?? {})
const second = computed(() => rule.value.sign === 'second' || rule.value.sign === 'both')
const roles = useRoles()
/** What is empty is left out. */
function set(part: Partial<Rule>) {
  const next = Object.entries({ ...rule.value, ...part }).filter(([, v]) => v)
  void project.edit(t('site.edit'), [
    {
      kind: 'site',
      id: 'site',
      path: '/release',
      value: next.length ? Object.fromEntries(next) : undefined,
    },
  ])
}
</script>

<template>
  <div class="block">
    <h2>{{ $t('site.release') }}</h2>
    <p class="quiet">{{ $t('site.releaseWhy') }}</p>
    <div class="fields">
      <FieldSelect
        :label="$t('site.stops')"
        :model-value="rule.stops ?? ''"
        :options="
          (['', 'warning', 'note'] as const).map((v) => ({
            value: v,
            title: $t($word('site.stopsBy', v || 'error')),
          }))
        "
        @update:model-value="set({ stops: $event as Rule['stops'] })" />
      <FieldSelect
        :label="$t('site.signs')"
        :model-value="rule.sign ?? ''"
        :options="
          (['', 'own', 'second', 'both'] as const).map((v) => ({
            value: v,
            title: $t($word('rules.sign', v || 'none')),
          }))
        "
        @update:model-value="set({ sign: $event as Rule['sign'] })" />
      <FieldSelect
        v-if="second"
        :label="$t('site.secondRole')"
        :model-value="rule.by ?? ''"
        :options="[
          { value: '', title: $t('site.anyRole') },
          ...roles.map((r) => ({ value: r.id, title: r.name })),
        ]"
        @update:model-value="set({ by: $event })" />
      <FieldText
        v-if="rule.sign"
        :label="$t('site.meaning')"
        :model-value="rule.meaning"
        @update:model-value="set({ meaning: $event.trim() })" />
    </div>
    <FieldCheck
      :label="$t('site.proved')"
      :model-value="rule.proved"
      @update:model-value="set({ proved: $event })" />
    <FieldCheck
      :label="$t('site.noted')"
      :model-value="rule.note"
      @update:model-value="set({ note: $event })" />
  </div>
</template>

<style scoped>
.block {
  max-width: 720px;
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
