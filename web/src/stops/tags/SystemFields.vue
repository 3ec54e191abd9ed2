<script setup lang="ts">
import { computed } from 'vue'
import type { Tag } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useNamed } from '../../rail/named'
import { useProject } from '../../rail/project'

// What a system tag tells, and of which device, log or book of recipes.
const props = defineProps<{ tag: Tag }>()
const emit = defineEmits<{ set: [part: Partial<Tag>] }>()
const project = useProject()
const logs = useNamed('logs')
const books = useNamed('books')
const devices = computed(() => project.devices.map((d) => ({ value: d.id, title: d.name })))
/** What a value may be about, by the property of the tag that names it. */
const about = computed(() => ({ device: devices.value, log: logs.value, book: books.value }))
type About = keyof typeof about.value
const kinds: About[] = ['device', 'log', 'book']
const offered = computed(() =>
  project.system
    .filter((v) => kinds.every((k) => !v[k] || about.value[k].length))
    .map((v) => ({ value: v.name, title: v.name + ' · ' + v.does })),
)

function choose(name: string) {
  const v = project.system.find((x) => x.name === name)
  if (!v) return
  const part: Partial<Tag> = {
    system: name,
    type: v.type,
    decimals: undefined,
    low: undefined,
    high: undefined,
    states: undefined,
  }
  for (const k of kinds) part[k] = v[k] ? (props.tag[k] ?? about.value[k][0]?.value) : undefined
  emit('set', part)
}
</script>

<template>
  <FieldSelect
    class="wide"
    :label="$t('tags.system')"
    :model-value="tag.system"
    :options="offered"
    @update:model-value="choose" />
  <template v-for="k in kinds" :key="k">
    <FieldSelect
      v-if="tag[k]"
      :label="$t('tags.' + k)"
      :model-value="tag[k]"
      :options="about[k]"
      @update:model-value="emit('set', { [k]: $event })" />
  </template>
</template>
