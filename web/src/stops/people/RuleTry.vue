<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useProject } from '../../rail/project'
import TagField from '../../tags/TagField.vue'
import { choice, type Rules } from './useRules'

// What would be asked of whom: at a tag, or before a recipe of a book is sent.
const props = defineProps<{ known: Rules }>()
const emit = defineEmits<{ open: [rule: string] }>()
const project = useProject()
const tag = ref('')
const book = ref('')
const role = ref('')
const AT_TAG = ['write', 'limit', 'shelve', 'hold'] as const
const OF_BOOK = ['deliver', 'approve'] as const
const may = computed(() => (book.value ? OF_BOOK : AT_TAG))
const does = ref<(typeof AT_TAG)[number] | (typeof OF_BOOK)[number]>('write')
watch(may, () => (does.value = may.value[0]))
const asked = shallowRef<Schemas['Asked']>()
let number = 0
watch([tag, book, does, role, () => props.known.rules.value], async () => {
  const mine = ++number
  if (!tag.value && !book.value) return void (asked.value = undefined)
  const target = props.known.books.value.find((b) => b.id === book.value)?.targets[0]?.id
  const query = {
    ...(tag.value ? { tag: tag.value } : { book: book.value, target }),
    does: does.value,
    roles: role.value ? [role.value] : undefined,
  }
  const got = await ask(
    api.GET('/api/projects/{project}/asked', { params: { path: project.path, query } }),
  ).catch(() => undefined)
  if (mine === number) asked.value = got
})
function pickTag(id: string) {
  tag.value = id
  if (id) book.value = ''
}
function pickBook(id: string) {
  book.value = id
  if (id) tag.value = ''
}
</script>

<template>
  <section class="try">
    <h2>{{ $t('rules.try') }}</h2>
    <p class="quiet">{{ $t('rules.tryIntro') }}</p>
    <div class="of">
      <TagField :label="$t('rules.tryTag')" :model-value="tag" @update:model-value="pickTag" />
      <FieldSelect
        :label="$t('rules.tryBook')"
        :model-value="book"
        :options="choice(known.books.value, '—')"
        @update:model-value="pickBook" />
      <FieldSelect
        v-model="does"
        :label="$t('rules.tryDoes')"
        :options="may.map((v) => ({ value: v, title: $t($word('rules.tryTo', v)) }))" />
      <FieldSelect
        v-model="role"
        :label="$t('rules.tryRole')"
        :options="choice(known.roles.value, $t('rules.nobody'))" />
    </div>
    <div v-if="asked" class="says" aria-live="polite">
      <strong v-if="asked.by.length">{{ known.phrases(asked).join(' · ') }}</strong>
      <strong v-else>{{ $t('rules.asksNothing') }}</strong>
      <ul v-if="asked.by.length" :aria-label="$t('rules.because')">
        <li v-for="by in asked.by" :key="by.rule">
          <button v-if="by.rule" class="bare link" @click="emit('open', by.rule)">{{ by.name }}</button>
          <template v-else>{{ by.name }}, {{ $t('rules.itself') }}</template>
          <span class="quiet">{{ known.phrases(by.asks).join(' · ') }}</span>
        </li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.try {
  max-width: 860px;
  margin-top: 28px;
}
.of {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 12px;
}
.says {
  margin-top: 12px;
  padding: 10px 14px;
  border-left: 3px solid var(--c-spruce);
  background: var(--c-sheet);
}
ul {
  margin: 6px 0 0;
  padding-left: 18px;
  line-height: 1.6;
}
.link {
  color: var(--c-spruce);
  font-weight: 650;
  margin-right: 8px;
  min-height: 24px;
}
</style>
