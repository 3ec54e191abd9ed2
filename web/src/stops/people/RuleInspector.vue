<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Refused } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import { useProject } from '../../rail/project'
import FolderField from '../../tags/FolderField.vue'
import TagField from '../../tags/TagField.vue'
import TagListField from '../../tags/TagListField.vue'
import { choice, type Rule, type Rules } from './useRules'

// One rule: where it applies, and what it asks there.
const props = defineProps<{ rule: Rule; known: Rules }>()
const emit = defineEmits<{ remove: [] }>()
const project = useProject()
const { t } = useI18n()
const refused = ref<Refused>()
const findings = computed(() => project.findings.filter((f) => f.id === props.rule.id))

async function set(path: string, value: unknown) {
  const empty = value === '' || value === false || (Array.isArray(value) && !value.length)
  refused.value = await project.edit(t('rules.edited', { name: props.rule.name }), [
    { kind: 'rule', id: props.rule.id, path: '/' + path, value: empty ? undefined : value },
  ])
}
const problem = (path: string) =>
  refused.value?.problem.refusal?.path === '/' + path ? refused.value.message : undefined
const lines = (text: string) =>
  text
    .split('\n')
    .map((x) => x.trim())
    .filter(Boolean)
const second = computed(() => props.rule.sign === 'second' || props.rule.sign === 'both')
</script>

<template>
  <InspectorPane :title="rule.name">
    <template #tools>
      <button
        class="bare"
        :aria-label="$t('common.delete')"
        :title="$t('common.delete')"
        @click="emit('remove')">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </template>
    <div v-for="f in findings" :key="f.rule + f.place" class="finding" :class="f.severity">
      {{ f.says }}
      <span class="quiet">{{ f.mend }}</span>
    </div>
    <div v-if="refused" class="problem" role="alert">{{ refused.message }}</div>
    <div class="form">
      <FieldText
        :label="$t('rules.name')"
        :model-value="rule.name"
        :problem="problem('name')"
        @update:model-value="set('name', $event.trim())" />
      <FieldText
        :label="$t('rules.note')"
        lines
        :model-value="rule.note"
        @update:model-value="set('note', $event.trim())" />
      <h3>{{ $t('rules.where') }}</h3>
      <FieldSelect
        :label="$t('rules.does')"
        :model-value="rule.does ?? ''"
        :options="
          (['', 'write', 'deliver', 'approve', 'limit', 'shelve', 'hold'] as const).map((v) => ({
            value: v,
            title: $t($word('rules.doing', v || 'all')),
          }))
        "
        @update:model-value="set('does', $event)" />
      <FieldSelect
        :label="$t('rules.area')"
        :model-value="rule.area ?? ''"
        :options="choice(known.areas.value, $t('rules.any'))"
        @update:model-value="set('area', $event)" />
      <FieldSelect
        :label="$t('rules.type')"
        :model-value="rule.type ?? ''"
        :options="choice(known.types.value, $t('rules.any'))"
        @update:model-value="set('type', $event)" />
      <FolderField
        :label="$t('rules.folder')"
        :model-value="rule.folder ?? ''"
        :folders="known.folders.value"
        @update:model-value="set('folder', $event)" />
      <TagField
        :label="$t('rules.tag')"
        :model-value="rule.tag ?? ''"
        @update:model-value="set('tag', $event)" />
      <FieldSelect
        v-if="!rule.does || ['deliver', 'approve'].includes(rule.does) || rule.book"
        :label="$t('rules.book')"
        :model-value="rule.book ?? ''"
        :options="choice(known.books.value, $t('rules.any'))"
        @update:model-value="set('book', $event)" />
      <FieldSelect
        :label="$t('rules.role')"
        :model-value="rule.role ?? ''"
        :options="choice(known.roles.value, $t('rules.everybody'))"
        @update:model-value="set('role', $event)" />
      <h3>{{ $t('rules.asks') }}</h3>
      <FieldCheck
        :model-value="!!rule.confirm"
        :label="$t('rules.confirmField')"
        @update:model-value="set('confirm', $event)" />
      <FieldSelect
        :label="$t('rules.reasonField')"
        :model-value="rule.reason ?? ''"
        :options="
          (['', 'offered', 'required'] as const).map((v) => ({
            value: v,
            title: $t($word('rules.reason', v || 'none')),
          }))
        "
        @update:model-value="set('reason', $event)" />
      <FieldText
        v-if="rule.reason"
        :label="$t('rules.reasonsField')"
        lines
        :hint="$t('rules.reasonsHint')"
        :model-value="(rule.reasons ?? []).join('\n')"
        :problem="problem('reasons')"
        @update:model-value="set('reasons', lines($event))" />
      <FieldSelect
        :label="$t('rules.signField')"
        :model-value="rule.sign ?? ''"
        :options="
          (['', 'own', 'second', 'both'] as const).map((v) => ({
            value: v,
            title: $t($word('rules.sign', v || 'none')),
          }))
        "
        @update:model-value="set('sign', $event)" />
      <FieldSelect
        v-if="second"
        :label="$t('rules.byField')"
        :model-value="rule.by ?? ''"
        :options="choice(known.roles.value, $t('rules.byAny'))"
        @update:model-value="set('by', $event)" />
      <FieldText
        v-if="rule.sign"
        :label="$t('rules.meaningField')"
        :hint="$t('rules.meaningHint')"
        :model-value="rule.meaning"
        :problem="problem('meaning')"
        @update:model-value="set('meaning', $event.trim())" />
      <h3>{{ $t('rules.captures') }}</h3>
      <span class="quiet">{{ $t('rules.capturesWhy') }}</span>
      <TagListField
        :label="$t('rules.tag')"
        :model-value="rule.capture ?? []"
        :most="20"
        @update:model-value="set('capture', $event)" />
    </div>
  </InspectorPane>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
h3 {
  margin: 10px 0 0;
  font-size: 14px;
}
</style>
