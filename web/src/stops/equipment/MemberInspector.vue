<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, type Tag } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import RecordingFields from '../tags/RecordingFields.vue'
import SystemFields from '../tags/SystemFields.vue'
import TagDefinition from '../tags/TagDefinition.vue'
import type { Member, TypeEdit } from './useTypeEdit'
import PathText from '../../kit/PathText.vue'

// A member of a type is a whole tag, or equipment within with its settings. What
// it has become in all equipment stands below, with its addresses.
const props = defineProps<{ edit: TypeEdit; id: string; member: Member }>()
const project = useProject()
const catalogue = useCatalogue()
const points = shallowRef<Schemas['MemberPoint'][]>([])
const clashes = computed(() => points.value.filter((p) => p.used).length)
const nested = computed(() => project.types.find((x) => x.id === props.member.type))
watch(
  [() => props.id, () => project.versionOf('type', 'equipment', 'device', 'paths')],
  async () => {
    const type = props.edit.type.value
    if (type)
      points.value = await ask(
        api.GET('/api/projects/{project}/types/{id}/points', {
          params: { path: { ...project.path, id: type.id }, query: { member: props.id } },
        }),
      ).catch(() => [])
  },
  { immediate: true },
)
const set = (field: keyof Tag, v: unknown) => props.edit.setTag(props.id, { [field]: v })
const setting = (name: string, v: string) =>
  props.edit.change(`/members/${props.id}/settings`, {
    ...props.member.settings,
    [name]: v.trim() || undefined,
  })
const flip = (name: string) => {
  const now = props.member.differs ?? []
  return props.edit.change(
    `/members/${props.id}/differs`,
    now.includes(name) ? now.filter((d) => d !== name) : [...now, name],
  )
}
</script>

<template>
  <InspectorPane
    :title="member.name + (member.to ? `[${member.from ?? 0}..${member.to}]` : '')"
    mono
    :note="
      nested
        ? $t('gear.nestedOf', { type: nested.name })
        : $t('gear.memberOf', { type: edit.type.value?.name })
    ">
    <template v-if="member.tag">
      <FieldText
        :label="$t('common.description')"
        :hint="$t('gear.textHint')"
        :model-value="member.tag.description"
        @update:model-value="set('description', $event)" />
      <div v-if="member.tag.source === 'device'" class="fields">
        <FieldText
          class="wide"
          :label="$t('tags.address')"
          mono
          :hint="$t('gear.addressHint')"
          :model-value="member.tag.address"
          @update:model-value="set('address', $event.trim())" />
        <FieldSelect
          :label="$t('tags.access')"
          :model-value="member.tag.access"
          :options="
            (['read', 'readwrite'] as const).map((v) => ({ value: v, title: $t($word('access', v)) }))
          "
          @update:model-value="set('access', $event)" />
        <FieldText
          v-if="member.tag.access === 'readwrite'"
          :label="$t('tags.writeAddress')"
          mono
          :placeholder="$t('tags.sameAddress')"
          :model-value="member.tag.writeAddress"
          @update:model-value="set('writeAddress', $event.trim())" />
      </div>
      <div v-if="member.tag.source === 'system'" class="fields">
        <SystemFields :tag="member.tag as Tag" @set="edit.setTag(id, $event)" />
      </div>
      <TagDefinition :tag="member.tag" plain @set="set" />
      <RecordingFields
        :record="member.tag.record"
        :usual="$t('recording.above')"
        @set="set('record', $event)" />
      <details>
        <summary>
          {{ $t('gear.differs') }}
          <span class="quiet">{{ member.differs?.length ?? 0 }}</span>
        </summary>
        <p class="quiet">{{ $t('gear.differsWhy') }}</p>
        <label v-for="d in catalogue.differing" :key="d" class="differ">
          <input type="checkbox" :checked="(member.differs ?? []).includes(d)" @change="flip(d)" />
          {{ d }}
        </label>
      </details>
    </template>
    <template v-else>
      <p class="quiet">{{ $t('gear.settingsWhy') }}</p>
      <FieldText
        v-for="s in nested?.settings ?? []"
        :key="s.name"
        :label="s.name"
        mono
        :placeholder="edit.type.value?.settings?.some((x) => x.name === s.name) ? s.name : s.default"
        :model-value="member.settings?.[s.name]"
        @update:model-value="setting(s.name, $event)" />
      <p v-if="!nested?.settings.length" class="quiet">{{ $t('gear.noSettings') }}</p>
    </template>
    <div v-if="points.length" class="points">
      <strong>{{ $t('gear.points', { n: points.length }) }}</strong>
      <span v-if="clashes" class="err">{{ $t('gear.clashes', { n: clashes }) }}</span>
      <p v-if="edit.ops.value.length" class="quiet">{{ $t('gear.pointsBefore') }}</p>
      <table>
        <tbody>
          <tr v-for="p in points" :key="p.id">
            <td class="mono"><PathText :path="p.path" /></td>
            <td
              class="mono"
              :class="{ err: p.used }"
              :title="p.used ? $t('bulk.used', { path: p.used }) : undefined">
              {{ p.address }}
              <template v-if="p.used">!</template>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </InspectorPane>
</template>

<style scoped>
.differ {
  display: inline-flex;
  gap: 4px;
  align-items: center;
  margin-right: 12px;
  font-size: 13px;
}
.differ input {
  accent-color: var(--c-spruce);
}
summary {
  cursor: pointer;
  font-weight: 650;
}
p {
  margin: 4px 0;
}
.points {
  border-top: 1px solid var(--c-line);
  padding-top: 10px;
}
.points table {
  width: 100%;
  border-spacing: 0;
  font-size: 12px;
  table-layout: fixed;
}
.points td {
  padding: 3px 0;
  border-bottom: 1px solid var(--c-line);
}
.points td:last-child {
  width: 108px;
  text-align: right;
}
</style>
