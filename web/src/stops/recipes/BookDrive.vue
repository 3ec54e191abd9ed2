<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useProject } from '../../rail/project'
import type { Book } from '../../recipes/useBook'
import TagField from '../../tags/TagField.vue'
import { usePoint } from './usePoint'

// The tags by which a controller or a reader of codes asks for recipes, with the
// answers of a function block.
const props = defineProps<{
  book: Book
  def: Schemas['Book']
  problem: (path: string) => string | undefined
}>()
const emit = defineEmits<{ set: [path: string, value: unknown] }>()
type Drive = Schemas['Drive']
const project = useProject()
const point = usePoint(() => props.book.id)
const places = ['execute', 'chosen', 'busy', 'done', 'error', 'errorId'] as const
const drive = computed(() => props.def.sending.drive)
/** What is chosen so far, until all that is needed is. */
const begun = ref<Partial<Drive>>({})
const now = computed(() => ({ ...begun.value, ...drive.value }))
function put(part: Partial<Drive>) {
  begun.value = { ...now.value, ...part }
  const { role, execute, chosen } = begun.value
  if (role && execute && chosen) emit('set', '/sending/drive', begun.value)
}
async function choose(place: (typeof places)[number], tag: string) {
  const ref = tag && (await point(tag))
  if (ref) put({ [place]: ref })
}
function drop() {
  begun.value = {}
  emit('set', '/sending/drive', undefined)
}
const all = shallowRef<{ id: string; name: string }[]>([])
watch(
  () => project.versionOf('role'),
  async () => {
    all.value = await ask(api.GET('/api/projects/{project}/roles', { params: { path: project.path } })).catch(
      () => [],
    )
  },
  { immediate: true },
)
const roles = computed(() => [
  { value: '', title: '—' },
  ...all.value.map((r) => ({ value: r.id, title: r.name })),
])
</script>

<template>
  <section class="block">
    <h2>{{ $t('book.drive.title') }}</h2>
    <p class="quiet">{{ $t('book.drive.hint') }}</p>
    <FieldSelect
      :label="$t('book.drive.role')"
      :model-value="now.role ?? ''"
      :options="roles"
      @update:model-value="$event && put({ role: $event })" />
    <template v-for="p in places" :key="p">
      <p v-if="book.drive[p]" class="mono">{{ $t($word('book.drive', p)) }}: {{ book.drive[p] }}</p>
      <p v-else-if="now[p]" class="quiet">
        {{ $t($word('book.drive', p)) }}: {{ $t('book.drive.chosenTag') }}
      </p>
      <TagField :label="$t($word('book.drive', p))" model-value="" @update:model-value="choose(p, $event)" />
    </template>
    <p
      v-for="p in ['', ...places.map((x) => '/' + x)]"
      v-show="problem('/sending/drive' + p)"
      :key="p"
      class="err">
      {{ problem('/sending/drive' + p) }}
    </p>
    <button v-if="drive" class="chip" @click="drop">{{ $t('book.drive.none') }}</button>
  </section>
</template>
