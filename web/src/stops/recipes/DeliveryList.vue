<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { moment, toSecond } from '../../kit/moment'
import { useNotice } from '../../kit/problem'
import type { Book } from '../../recipes/useBook'
import { useDeliveries, type Delivery } from '../../recipes/useDeliveries'

// The record of what was sent: to which target, by whom, with what end; each opens
// its fields before, wanted and after.
const props = defineProps<{ project: string; book: Book }>()
const notice = useNotice()
const d = useDeliveries(
  () => props.project,
  () => props.book.id,
)
const target = ref('')
const upto = ref('')
const list = shallowRef<Delivery[]>([])
const more = ref(false)
const open = shallowRef<Delivery>()
const PAGE = 100
const query = computed(() => ({
  target: target.value || undefined,
  upto: upto.value ? new Date(upto.value).getTime() : undefined,
}))
async function load(further = false) {
  const before = further ? list.value[list.value.length - 1]?.seq : undefined
  try {
    const got = await d.list({ ...query.value, before })
    more.value = got.length === PAGE
    list.value = further ? [...list.value, ...got] : got
  } catch (e) {
    notice.refuse(e)
  }
}
watch([query, () => d.states.value.map((s) => s.runs?.seq ?? 0).join()], () => load(), { immediate: true })
async function show(x: Delivery) {
  open.value =
    open.value?.seq === x.seq ? undefined : await d.one(x.seq).catch((e) => (notice.refuse(e), undefined))
}
</script>

<template>
  <div class="deliveries">
    <div class="tools">
      <select v-model="target" class="plain" :aria-label="$t('recipe.place')">
        <option value="">{{ $t('recipe.everywhere') }}</option>
        <option v-for="t in book.targets" :key="t.id" :value="t.id">{{ t.path }}</option>
      </select>
      <label class="quiet">
        {{ $t('recipe.upto') }}
        <input v-model="upto" class="plain" type="datetime-local" />
      </label>
    </div>
    <table class="grid">
      <thead>
        <tr>
          <th>{{ $t('recipe.at') }}</th>
          <th>{{ $t('recipe.recipe') }}</th>
          <th>{{ $t('recipe.place') }}</th>
          <th>{{ $t('recipe.who') }}</th>
          <th>{{ $t('recipe.end') }}</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="x in list" :key="x.seq">
          <tr :class="{ on: open?.seq === x.seq }" tabindex="0" @click="show(x)" @keydown.enter="show(x)">
            <td class="mono">{{ moment(x.began, toSecond) }}</td>
            <td>{{ $t('recipe.runs', { name: x.title, n: x.version }) }}</td>
            <td>{{ x.place }}</td>
            <td>
              {{ x.person }}
              <span class="quiet">{{ x.panel }}</span>
            </td>
            <td :class="{ err: x.state === 'half' || x.state === 'back' }" :title="x.reason">
              {{ $t($word('recipe.outcome', x.state)) }}
              <span class="quiet">{{ x.settled || x.reason }}</span>
            </td>
          </tr>
          <tr v-if="open?.seq === x.seq" class="fields">
            <td colspan="5">
              <p v-if="x.reason">{{ x.reason }}</p>
              <table class="grid">
                <thead>
                  <tr>
                    <th>{{ $t('recipe.field') }}</th>
                    <th>{{ $t('recipe.before') }}</th>
                    <th>{{ $t('recipe.want') }}</th>
                    <th>{{ $t('recipe.after') }}</th>
                    <th></th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="f in open.fields" :key="f.field">
                    <td :title="f.path">{{ f.name }}</td>
                    <td class="mono">{{ f.before }}</td>
                    <td class="mono" :class="{ strong: f.before !== f.want }">{{ f.want }}</td>
                    <td class="mono">{{ f.after }}</td>
                    <td :class="f.state === 'confirmed' ? 'quiet' : 'err'">
                      {{ $t($word('recipe.part', f.state), { after: f.after, want: f.want }) }}
                    </td>
                  </tr>
                </tbody>
              </table>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <p v-if="!list.length" class="quiet none">{{ $t('recipe.noDeliveries') }}</p>
    <button v-if="more" class="chip" @click="load(true)">{{ $t('recipe.older') }}</button>
  </div>
</template>

<style scoped>
.deliveries {
  flex: 1;
  min-width: 0;
  overflow: auto;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
  padding: 8px 12px;
}
tr[tabindex] {
  cursor: pointer;
}
.fields > td {
  white-space: normal;
  padding: 6px 24px 14px;
  background: var(--c-paper);
}
.strong {
  font-weight: 700;
}
.none {
  padding: 0 12px;
}
</style>
