<script setup lang="ts">
import { computed } from 'vue'
import type { Tag } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useNamed } from '../../rail/named'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import BookFieldSelect from '../../recipes/BookFieldSelect.vue'
import { useBooks } from '../../recipes/useBooks'

// What a system tag tells, and of which device, log or book of recipes.
const props = defineProps<{ tag: Tag }>()
const emit = defineEmits<{ set: [part: Partial<Tag>] }>()
const project = useProject()
const catalogue = useCatalogue()
const logs = useNamed('logs')
const books = useNamed('books')
const devices = computed(() => project.devices.map((d) => ({ value: d.id, title: d.name })))
/** What a value may be about, by the property of the tag that names it. */
const about = computed(() => ({ device: devices.value, log: logs.value, book: books.value }))
type About = keyof typeof about.value
const kinds: About[] = ['device', 'log', 'book']
const offered = computed(() =>
  catalogue.system
    .filter((v) => kinds.every((k) => !v[k] || about.value[k].length))
    .map((v) => ({ value: v.name, title: v.name + ' · ' + v.does })),
)

/** The book's field that the tag is: it takes its type and unit over. */
const { books: whole } = useBooks(
  () => project.id,
  'draft',
  () => project.versionOf('book'),
)
const fieldsOf = (book: string | undefined) => whole.value.find((b) => b.id === book)?.fields ?? []
function taken(book: string | undefined, id: string): Partial<Tag> {
  const f = fieldsOf(book).find((x) => x.id === id)
  if (!f) return {}
  const { type, unit, decimals } = f
  return {
    field: id,
    type: type as Tag['type'],
    unit,
    decimals: decimals === undefined || decimals < 0 ? undefined : decimals,
  }
}

function choose(name: string) {
  const v = catalogue.system.find((x) => x.name === name)
  if (!v) return
  const part: Partial<Tag> = {
    system: name,
    type: v.field ? props.tag.type : v.type,
    decimals: undefined,
    low: undefined,
    high: undefined,
    states: undefined,
  }
  part.field = undefined
  for (const k of kinds) part[k] = v[k] ? (props.tag[k] ?? about.value[k][0]?.value) : undefined
  if (v.field) Object.assign(part, taken(part.book, fieldsOf(part.book)[0]?.id ?? ''))
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
      :label="$t($word('tags', k))"
      :model-value="tag[k]"
      :options="about[k]"
      @update:model-value="emit('set', { [k]: $event })" />
  </template>
  <BookFieldSelect
    v-if="tag.system === 'recipe.field' && tag.book"
    :label="$t('tags.field')"
    :model-value="tag.field ?? ''"
    :book="tag.book"
    @update:model-value="emit('set', taken(tag.book, $event))" />
</template>
