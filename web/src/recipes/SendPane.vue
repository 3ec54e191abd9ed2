<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import AskBox, { type Given } from '../desk/AskBox.vue'
import { sentence } from '../api/client'
import { useNotice } from '../kit/problem'
import { problemText } from './problem'
import type { Book, OpenBook } from './useBook'
import type { Deliveries, Delivery, Plan } from './useDeliveries'
import { word } from '../i18n/word'

// Sending the recipe that is open: a plan that is shown before it runs, and how far
// it is while it runs.
const props = defineProps<{ book: Book; open: OpenBook; deliveries: Deliveries; only?: string }>()
const d = props.deliveries
const { t, locale } = useI18n({ useScope: 'global' })
const notice = useNotice()
const sheet = computed(() => props.open.sheets.value[0])
const column = computed(() => props.open.first.value)
const targets = computed(() =>
  props.book.targets.filter((x) => props.only === undefined || x.id === props.only),
)
const target = ref<string>()
watch(
  () => [props.book.id, props.only],
  () => (target.value = targets.value.length === 1 ? targets.value[0]!.id : undefined),
  { immediate: true },
)
const to = computed(() => targets.value.find((x) => x.id === target.value))
const state = computed(() => d.states.value.find((s) => s.target === target.value))
const what = computed(() => {
  const s = sheet.value
  if (!s || column.value?.target !== undefined) return ''
  return [
    s.name || column.value?.name,
    s.version && s.state && t(word('recipe.state', s.state), { n: s.version }),
  ]
    .filter(Boolean)
    .join(', ')
})
const quantity = ref('')
const plan = shallowRef<Plan>()
const refused = ref('')
const result = shallowRef<Delivery>()
const asking = ref(false)
const against = ref('') // why what was answered is refused
const sending = ref(false)

const order = computed(() => {
  const s = sheet.value
  if (!s?.recipe || !s.version || target.value === undefined || props.open.edits.has(column.value?.key ?? ''))
    return undefined
  const n = Number(quantity.value.replace(',', '.'))
  return {
    recipe: s.recipe,
    version: s.version,
    target: target.value,
    quantity: props.book.quantity && n ? n : undefined,
    language: locale.value,
  }
})
let asked = 0
async function look() {
  const mine = ++asked
  const o = order.value
  if (!o || !to.value?.may) {
    plan.value = undefined
    return
  }
  try {
    const got = await d.plan(o)
    if (mine !== asked) return
    plan.value = got
    refused.value = ''
  } catch (e) {
    if (mine !== asked) return
    plan.value = undefined
    refused.value = sentence(e)
  }
}
watch([order, () => d.states.value], look, { immediate: true })
watch(order, () => (result.value = undefined))

function press() {
  const asks = plan.value?.asks
  against.value = ''
  if (asks?.confirm || asks?.reason || asks?.sign) asking.value = true
  else void send({})
}
async function send(given: Given | Record<string, never>) {
  sending.value = true
  result.value = undefined
  against.value = ''
  try {
    const seq = await d.send(order.value!, given)
    asking.value = false
    result.value = await d.ended(seq)
  } catch (e) {
    if (asking.value) against.value = sentence(e)
    else notice.refuse(e)
  } finally {
    sending.value = false
    await d.look()
  }
}
const progress = computed(() => state.value?.underWay?.progress)
const share = computed(() => {
  const p = progress.value
  return p ? Math.round((100 * (p.written + p.read)) / Math.max(1, 2 * p.of)) : 0
})
const wrong = computed(() =>
  (result.value?.fields ?? []).filter((f) => !['confirmed', 'back'].includes(f.state)),
)
</script>

<template>
  <section class="send">
    <h2>{{ to ? $t('recipe.sendTo', { place: to.path }) : $t('recipe.send') }}</h2>
    <p v-if="what" class="quiet what">{{ what }}</p>
    <p v-else class="quiet">{{ $t('recipe.chooseFirst') }}</p>
    <div v-if="targets.length > 1" class="targets">
      <button
        v-for="x in targets"
        :key="x.id"
        class="chip"
        :class="{ on: x.id === target }"
        :aria-pressed="x.id === target"
        @click="target = x.id">
        {{ x.path }}
      </button>
    </div>
    <p v-if="!targets.length" class="quiet">{{ $t('recipe.nowhere') }}</p>
    <p v-if="to && !to.may" class="quiet">{{ $t('recipe.mayNot') }}</p>
    <p v-if="column && open.edits.has(column.key)" class="warn">{{ $t('recipe.saveFirst') }}</p>
    <p v-if="refused" class="err" role="alert">{{ refused }}</p>

    <template v-if="state?.underWay">
      <div class="progress" role="progressbar" :aria-valuenow="share" aria-valuemin="0" aria-valuemax="100">
        <div :style="{ width: share + '%' }" />
      </div>
      <p>
        {{
          $t($word('recipe.phase', progress?.phase || 'writing'), {
            written: progress?.written ?? 0,
            read: progress?.read ?? 0,
            of: progress?.of ?? 0,
          })
        }}
        <br />
        <span class="quiet">{{ state.underWay.title }} · {{ state.underWay.person }}</span>
      </p>
      <button class="chip big" @click="d.act(state.underWay.seq, 'cancel')">
        {{ $t(book.putBack ? 'recipe.cancelBack' : 'recipe.cancel') }}
      </button>
    </template>
    <template v-else-if="plan">
      <ul class="plan">
        <li v-if="!plan.problems.length" class="good">
          {{ $t('recipe.plan.fits', book.fields.length) }}
        </li>
        <li v-for="(p, i) in plan.problems" :key="i" class="bad">{{ problemText(t, p) }}</li>
        <li v-if="plan.holds" class="good">{{ $t('recipe.plan.holds', { what: plan.holds }) }}</li>
        <li v-for="why in plan.against" :key="why" class="bad">{{ why }}</li>
        <li :class="plan.changes ? 'differ' : 'good'">
          {{ plan.changes ? $t('recipe.plan.changes', { n: plan.changes }) : $t('recipe.plan.same') }}
        </li>
        <li class="quiet none">
          {{ $t('recipe.plan.requests', { n: plan.requests, of: plan.fields.length }) }}
        </li>
        <li class="quiet none">{{ $t(book.putBack ? 'recipe.plan.back' : 'recipe.plan.stop') }}</li>
        <li v-if="!book.hand" class="quiet none">{{ $t('recipe.plan.parts') }}</li>
      </ul>
      <label v-if="book.quantity" class="ask">
        <span>{{ book.quantity.name }}</span>
        <input
          v-model="quantity"
          class="plain mono"
          inputmode="decimal"
          :placeholder="String(book.quantity.base)" />
        <span class="quiet">{{ book.quantity.unit }}</span>
      </label>
      <v-btn color="primary" class="go" :loading="sending" :disabled="plan.against.length > 0" @click="press">
        {{ $t('recipe.sendTo', { place: plan.place }) }}
      </v-btn>
    </template>
    <div v-if="result" class="result" :class="result.state" role="status">
      <strong>{{ $t($word('recipe.ended', result.state), { place: result.place }) }}</strong>
      <p v-if="result.reason">{{ result.reason }}</p>
      <ul v-if="wrong.length && result.state !== 'refused'">
        <li v-for="f in wrong.slice(0, 8)" :key="f.field">
          {{ f.name }}: {{ $t($word('recipe.part', f.state), { after: f.after, want: f.want }) }}
        </li>
      </ul>
    </div>
    <AskBox
      v-if="asking && plan"
      :title="$t('recipe.sendTo', { place: plan.place })"
      :says="`${plan.title} · ${$t('recipe.plan.changes', { n: plan.changes })}`"
      :asks="plan.asks"
      :problem="against"
      :busy="sending"
      @send="send"
      @close="asking = false" />
  </section>
</template>

<style scoped>
.send p {
  margin: 4px 0;
}
.what {
  font-size: 13px;
}
.targets {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 8px 0;
}
.plan {
  list-style: none;
  margin: 8px 0;
  padding: 0;
  font-size: 13px;
}
.plan li {
  padding: 3px 0 3px 20px;
  position: relative;
}
.plan li::before {
  position: absolute;
  left: 0;
  font-weight: 700;
}
.good::before {
  content: '✓';
  color: var(--c-spruce);
}
.bad {
  color: var(--c-error);
}
.bad::before {
  content: '✗';
}
.differ::before {
  content: '≠';
  color: var(--c-warning);
}
.plan .none {
  font-size: 12px;
}
.ask {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 6px 0;
}
.ask input {
  flex: 1;
  min-width: 0;
}
.go,
.big {
  margin-top: 8px;
}
.progress {
  height: 8px;
  border-radius: 4px;
  background: var(--c-line);
  overflow: hidden;
  margin: 10px 0 6px;
}
.progress div {
  height: 100%;
  background: var(--c-spruce);
}
.result {
  margin-top: 10px;
  padding: 8px 12px;
  border-left: 3px solid var(--c-spruce);
  background: var(--c-tint);
  font-size: 13px;
}
.result.half,
.result.back,
.result.refused {
  border-color: var(--c-error);
  background: color-mix(in srgb, var(--c-error) 8%, var(--c-sheet));
}
.result ul {
  margin: 4px 0 0;
  padding-left: 16px;
}
</style>
