<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import DialogBox from '../kit/DialogBox.vue'
import RecipeList from './RecipeList.vue'
import SendPane from './SendPane.vue'
import type { Book, OpenBook } from './useBook'
import type { Deliveries } from './useDeliveries'
import { word, type WordOf } from '../i18n/word'

// A button of a screen for the recipe that is open there: what it needs to know it
// asks for in front of everything, and why it cannot be pressed it says.
const props = defineProps<{
  book: Book
  open: OpenBook
  deliveries: Deliveries
  does: WordOf<'recipe.button'>
  caption: string
  only?: string
  send: boolean
}>()
const { t } = useI18n({ useScope: 'global' })
const o = props.open
const asks = ref(false)
const text = ref('')
const field = ref<HTMLInputElement>()
const sheet = computed(() => o.sheets.value[0])
const recipe = computed(() => (o.first.value?.target === undefined ? sheet.value?.recipe : ''))
const edited = computed(() => o.changed.value.length > 0)
const targets = computed(() =>
  props.book.targets.filter((x) => props.only === undefined || x.id === props.only),
)
const typed = ['new', 'delete', 'read']

/** Why it cannot be pressed now; empty where it can. */
const why = computed(() => {
  const may = props.book.mayWrite ? '' : t('recipe.button.mayNot')
  switch (props.does) {
    case 'choose':
      return ''
    case 'new':
      return may
    case 'save':
    case 'undo':
      return may || (edited.value ? '' : t('recipe.button.nothing'))
    case 'delete':
      return may || (recipe.value ? '' : t('recipe.chooseFirst'))
    case 'read':
      return may || (targets.value.length === 1 ? '' : t('recipe.button.oneTarget'))
    case 'approve':
      if (!props.book.mayApprove) return t('recipe.button.mayNot')
      if (edited.value) return t('recipe.saveFirst')
      if (!recipe.value) return t('recipe.chooseFirst')
      return sheet.value?.state === 'approved' ? t('recipe.button.approved') : ''
    default:
      if (!props.send) return t(props.book.released ? 'recipe.notHere' : 'recipe.notReleased')
      return recipe.value || edited.value ? '' : t('recipe.chooseFirst')
  }
})
const says = computed(() => props.caption || t(word('recipe.button', props.does)))

async function press() {
  if (why.value) return
  if (props.does === 'save') return void o.save('')
  if (props.does === 'undo') return o.forget()
  if (props.does === 'approve') return void o.judge(recipe.value!, sheet.value!.version, true)
  text.value = ''
  asks.value = true
  await nextTick()
  field.value?.focus()
}
async function named() {
  const said = text.value.trim()
  if (!said) return
  asks.value = false
  if (props.does === 'new') o.begin(said)
  else if (props.does === 'delete') await o.remove([recipe.value!], false, said)
  else await o.read(targets.value[0]!.id, said)
}
</script>

<template>
  <button class="press" :disabled="!!why" :title="why || undefined" @click="press">
    {{ says }}
    <span v-if="why" class="unseen">{{ why }}</span>
  </button>
  <DialogBox v-if="asks" :label="says" @close="asks = false">
    <div class="ask fingers">
      <h2>{{ says }}</h2>
      <div
        v-if="does === 'choose'"
        class="list"
        @click="(e) => (e.target as Element).closest('.name') && (asks = false)">
        <RecipeList :book="book" :open="open" :states="deliveries.states.value" />
      </div>
      <form v-else-if="typed.includes(does)" @submit.prevent="named">
        <p v-if="does === 'delete'">{{ sheet?.name }}</p>
        <input
          ref="field"
          v-model="text"
          class="plain"
          maxlength="300"
          :aria-label="$t(does === 'delete' ? 'recipe.deleteWhy' : 'recipe.newName')"
          :placeholder="$t(does === 'delete' ? 'recipe.deleteWhy' : 'recipe.newName')" />
        <v-btn type="submit" color="primary" :disabled="!text.trim()">{{ says }}</v-btn>
        <v-btn variant="text" @click="asks = false">{{ $t('recipe.not') }}</v-btn>
      </form>
      <template v-else>
        <SendPane :book="book" :open="open" :deliveries="deliveries" :only="only" />
        <v-btn variant="text" @click="asks = false">{{ $t('notice.close') }}</v-btn>
      </template>
    </div>
  </DialogBox>
</template>

<style scoped>
.press {
  width: 100%;
  height: 100%;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 16px;
  font-weight: 650;
  cursor: pointer;
}
.press:disabled {
  border-color: var(--c-line);
  color: var(--c-quiet);
  cursor: default;
}
.ask {
  padding: 18px 20px;
  width: min(420px, 92vw);
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.ask form {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
.ask input {
  flex: 1 1 100%;
  min-height: 44px;
}
.list {
  height: min(420px, 70vh);
}
.unseen {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
</style>
