<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import RecipePage from '../../recipes/RecipePage.vue'
import { useBooks } from '../../recipes/useBooks'
import { freshId, useProject } from '../../rail/project'
import BookSetup from './BookSetup.vue'
import DeliveryList from './DeliveryList.vue'

// Sets of values: books and where they go, the recipes in them, and what was sent.
const project = useProject()
const route = useRoute()
const router = useRouter()
const { t } = useI18n({ useScope: 'global' })
type Part = 'values' | 'setup' | 'deliveries'
const parts: Part[] = ['setup', 'values', 'deliveries']
const { books, load } = useBooks(
  () => project.id,
  'draft',
  () => project.versionOf('book', 'type', 'equipment', 'paths'),
)
const book = computed(() => books.value.find((b) => b.id === route.params.id) ?? books.value[0])
const part = computed<Part>(() => {
  const asked = route.query.part as Part
  if (parts.includes(asked)) return asked
  return book.value && !book.value.fields.length ? 'setup' : 'values'
})
const go = (id?: string, to?: Part) =>
  router.push({ name: 'recipes', params: { project: project.id, id }, query: to ? { part: to } : {} })
async function make() {
  const id = freshId('book')
  const name = t('book.fresh', { n: books.value.length + 1 })
  const value = { name, fields: [], sending: { putBack: true } }
  if (await project.edit(t('book.made', { name }), [{ kind: 'book', id, path: '', value }])) return
  await load()
  await go(id, 'setup')
}
</script>

<template>
  <section class="stop">
    <div class="stop-head">
      <h1>{{ $t('stop.recipes') }}</h1>
      <span v-if="book" class="quiet">
        {{ book.name }}, {{ $t('book.fields', { n: book.fields.length }) }}
        <template v-if="book.type">
          · {{ $t('book.for', { type: book.type, places: book.targets.map((x) => x.path).join(', ') }) }}
        </template>
      </span>
      <span class="grow" />
      <template v-if="book">
        <button
          v-for="p in parts"
          :key="p"
          class="chip"
          :class="{ on: p === part }"
          :aria-pressed="p === part"
          @click="go(book.id, p)">
          {{ $t($word('book.part', p)) }}
        </button>
      </template>
      <button class="chip" @click="make">{{ $t('book.make') }}</button>
    </div>
    <div v-if="!book" class="empty">
      <h2>{{ $t('book.none') }}</h2>
      {{ $t('book.noneHint') }}
      <p>
        <v-btn color="primary" @click="make">{{ $t('book.make') }}</v-btn>
      </p>
    </div>
    <RecipePage
      v-else-if="part === 'values'"
      :key="book.id"
      :asked="route.query.recipe as string | undefined"
      :project="project.id"
      program="draft"
      :book="book">
      <template #books>
        <nav v-if="books.length > 1" class="books" :aria-label="$t('book.books')">
          <button
            v-for="b in books"
            :key="b.id"
            class="bare"
            :class="{ on: b.id === book.id }"
            :aria-current="b.id === book.id || undefined"
            :title="b.note"
            @click="go(b.id)">
            {{ b.name }}
          </button>
        </nav>
      </template>
    </RecipePage>
    <div v-else class="whole">
      <nav class="books side" :aria-label="$t('book.books')">
        <button
          v-for="b in books"
          :key="b.id"
          class="bare"
          :class="{ on: b.id === book.id }"
          :aria-current="b.id === book.id || undefined"
          :title="b.note"
          @click="go(b.id, part)">
          {{ b.name }}
        </button>
      </nav>
      <BookSetup v-if="part === 'setup'" :key="book.id" :book="book" @gone="go()" />
      <DeliveryList v-else :key="book.id + 'd'" :project="project.id" :book="book" />
    </div>
  </section>
</template>

<style scoped>
.grow {
  flex: 1;
}
.whole {
  display: flex;
  flex: 1;
  min-height: 0;
}
.books {
  display: flex;
  flex-direction: column;
  padding: 6px 0;
  border-bottom: 1px solid var(--c-line);
  max-height: 34%;
  overflow: auto;
  flex: none;
}
.books.side {
  width: 190px;
  max-height: none;
  border-bottom: 0;
  border-right: 1px solid var(--c-line);
}
.books button {
  padding: 6px 14px;
  font-size: 13px;
}
.books .on {
  background: var(--c-tint);
  font-weight: 700;
}
</style>
