<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import type { Schemas } from '../../api/client'
import TypedInput from '../../kit/TypedInput.vue'

// Conditions over several fields, each with the sentence that is said where it does
// not hold.
const props = defineProps<{ def: Schemas['Book'] }>()
const emit = defineEmits<{ set: [path: string, value: unknown] }>()
const list = () => props.def.checks ?? []
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
const set = (i: number, part: Partial<Schemas['Check']>) =>
  emit(
    'set',
    '/checks',
    list().map((c, n) => (n === i ? { ...c, ...part } : c)),
  )
const add = (e: Event) => {
  const formula = text(e)
  ;(e.target as HTMLInputElement).value = ''
  if (formula) emit('set', '/checks', [...list(), { formula, says: formula }])
}
</script>

<template>
  <section>
    <h2>{{ $t('book.checks') }}</h2>
    <table class="grid">
      <tbody>
        <tr v-for="(c, i) in list()" :key="i">
          <td class="mono">
            <TypedInput
              class="plain"
              :value="c.formula"
              :aria-label="$t('book.check')"
              @change="set(i, { formula: text($event) })" />
          </td>
          <td>
            <TypedInput
              class="plain"
              :value="c.says"
              :aria-label="$t('book.says')"
              @change="set(i, { says: text($event) })" />
          </td>
          <td class="x">
            <button
              class="bare"
              :aria-label="$t('book.drop', { name: c.says })"
              @click="
                emit(
                  'set',
                  '/checks',
                  list().filter((_, n) => n !== i),
                )
              ">
              <v-icon :icon="mdiClose" size="15" />
            </button>
          </td>
        </tr>
        <tr>
          <td class="mono">
            <input
              class="plain"
              :placeholder="$t('book.newCheck')"
              :aria-label="$t('book.newCheck')"
              @change="add" />
          </td>
          <td class="quiet">{{ $t('book.checkHint') }}</td>
          <td></td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.plain {
  width: 100%;
}
.grid td {
  padding: 3px 4px;
}
.x {
  width: 30px;
}
</style>
