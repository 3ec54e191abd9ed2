<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldText from '../../kit/FieldText.vue'
import { typedNumber } from '../../kit/number'
import type { Book } from '../../recipes/useBook'
import TagField from '../../tags/TagField.vue'
import BookDrive from './BookDrive.vue'
import { usePoint } from './usePoint'

// How a book's recipes are sent: when, what is asked, what happens when it fails, and
// the request by which the controller takes them over.
const props = defineProps<{
  book: Book
  def: Schemas['Book']
  problem: (path: string) => string | undefined
}>()
const emit = defineEmits<{ set: [path: string, value: unknown] }>()
const point = usePoint(() => props.book.id)
const s = computed(() => props.def.sending)
const hand = computed(() => s.value.hand)
const q = computed(() => props.def.quantity)
/** One end of a handshake, until both are chosen. */
const half = ref<{ ready?: string; taken?: string }>({})
/** What a tag is in this book: its id, or the member of the type that it is. */
async function part(tag: string, of: 'ready' | 'taken') {
  const ref = tag && (await point(tag))
  if (!ref) return
  half.value = { ...half.value, [of]: ref }
  const { ready, taken } = { ...hand.value, ...half.value }
  if (ready && taken) emit('set', '/sending/hand', { seconds: 5, ...hand.value, ready, taken })
}
const quantity = (part: Partial<Schemas['Quantity']>) =>
  emit('set', '/quantity', { name: 'quantity', base: 1, low: 1, high: 1, ...q.value, ...part })
const n = (text: string) => typedNumber(text) ?? 0
</script>

<template>
  <section class="block">
    <h2>{{ $t('book.sending') }}</h2>
    <FieldText
      :label="$t('book.when')"
      :model-value="s.when"
      mono
      :hint="$t('book.whenHint')"
      :problem="problem('/sending/when')"
      @update:model-value="emit('set', '/sending/when', $event.trim())" />
    <FieldText
      v-if="s.when"
      :label="$t('book.whenWhy')"
      :model-value="s.why"
      @update:model-value="emit('set', '/sending/why', $event.trim())" />
    <FieldCheck
      :label="$t('book.confirm')"
      :model-value="!!s.confirm"
      @update:model-value="emit('set', '/sending/confirm', $event)" />
    <FieldCheck
      :label="$t('book.reason')"
      :model-value="!!s.reason"
      @update:model-value="emit('set', '/sending/reason', $event)" />
    <FieldCheck
      :label="$t('book.sign')"
      :model-value="!!s.sign"
      @update:model-value="emit('set', '/sending/sign', $event)" />
    <FieldCheck
      :label="$t('book.putBack')"
      :model-value="!!s.putBack"
      @update:model-value="emit('set', '/sending/putBack', $event)" />
  </section>
  <section class="block">
    <h2>{{ $t('book.hand') }}</h2>
    <p class="quiet">{{ $t('book.handHint') }}</p>
    <p v-if="hand" class="mono">{{ book.ready }} → {{ book.taken }}</p>
    <TagField :label="$t('book.ready')" model-value="" @update:model-value="part($event, 'ready')" />
    <TagField :label="$t('book.taken')" model-value="" @update:model-value="part($event, 'taken')" />
    <FieldText
      v-if="hand"
      :label="$t('book.seconds')"
      :model-value="hand.seconds"
      :problem="problem('/sending/hand/seconds')"
      @update:model-value="emit('set', '/sending/hand/seconds', n($event))" />
    <button v-if="hand" class="chip" @click="emit('set', '/sending/hand', undefined)">
      {{ $t('book.noHand') }}
    </button>
  </section>
  <BookDrive :book="book" :def="def" :problem="problem" @set="(path, value) => emit('set', path, value)" />
  <section class="block">
    <h2>{{ $t('book.quantity') }}</h2>
    <p class="quiet">{{ $t('book.quantityHint') }}</p>
    <template v-if="q">
      <FieldText
        :label="$t('common.name')"
        :model-value="q.name"
        @update:model-value="quantity({ name: $event })" />
      <FieldText
        :label="$t('book.f.unit')"
        :model-value="q.unit"
        @update:model-value="quantity({ unit: $event })" />
      <FieldText
        :label="$t('book.base')"
        :model-value="q.base"
        :problem="problem('/quantity/base')"
        @update:model-value="quantity({ base: n($event) })" />
      <FieldText
        :label="$t('book.f.low')"
        :model-value="q.low"
        :problem="problem('/quantity/low')"
        @update:model-value="quantity({ low: n($event) })" />
      <FieldText
        :label="$t('book.f.high')"
        :model-value="q.high"
        @update:model-value="quantity({ high: n($event) })" />
      <button class="chip" @click="emit('set', '/quantity', undefined)">{{ $t('book.noQuantity') }}</button>
    </template>
    <button v-else class="chip" @click="quantity({})">{{ $t('book.addQuantity') }}</button>
  </section>
</template>
