<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import { dayAndTime, moment } from '../kit/moment'

// How the parts of a controller are: each with its state, its code and what
// that means; one open, with all that it can say.
const props = defineProps<{ groups: Schemas['ConditionInfo'][]; first?: string }>()
const { t } = useI18n()
const open = ref('')
watch(
  () => props.first,
  (name) => (open.value = name ?? ''),
  { immediate: true },
)
// Without a choice the worst is open, if there is one.
const order = ['fault', 'attention', 'unknown', 'good']
const worst = computed(() =>
  [...props.groups]
    .sort((a, b) => order.indexOf(a.level) - order.indexOf(b.level))
    .find((g) => g.level !== 'good'),
)
const shown = computed(() => props.groups.find((g) => g.key === open.value) ?? worst.value ?? props.groups[0])
// What an OPC UA server says of itself is the same for all of them.
const meaning = (g: Schemas['ConditionInfo'], c: { code: string; text?: string }) =>
  g.tag ? c.text || '' : t('controller.server.' + c.code)
const said = (g: Schemas['ConditionInfo']) =>
  (g.level === 'unknown' && g.reason) ||
  (g.code && meaning(g, g)) ||
  (g.level === 'good' ? t('controller.good') : t('controller.unlisted'))
const fact = (f: Schemas['ServerFact']) =>
  f.name === 'started' || f.name === 'clock' ? moment(f.text, dayAndTime) : f.text
</script>

<template>
  <section class="controller" :aria-label="$t('controller.title')">
    <div class="tabs" role="tablist" :aria-label="$t('controller.title')">
      <button
        v-for="g in groups"
        :key="g.key"
        role="tab"
        :aria-selected="g === shown"
        :class="[g.level, { on: g === shown }]"
        @click="open = g.key">
        <span class="name">{{ g.name }}</span>
        <span class="level">{{ $t($word('controller.level', g.level)) }}</span>
      </button>
    </div>
    <div v-if="shown" class="shown" role="tabpanel">
      <div class="says">
        <span v-if="shown.code" class="mono code">{{ shown.code }}</span>
        <strong :class="shown.level">{{ said(shown) }}</strong>
        <span class="grow" />
        <span v-if="shown.tag" class="mono quiet">{{ shown.tag }}</span>
      </div>
      <dl v-if="shown.facts.length">
        <template v-for="f in shown.facts" :key="f.name">
          <dt>{{ $t($word('controller.fact', f.name)) }}</dt>
          <dd>{{ fact(f) }}</dd>
        </template>
      </dl>
      <details v-if="shown.codes.length">
        <summary>{{ $t('controller.codes', { n: shown.codes.length }) }}</summary>
        <table class="grid">
          <tbody>
            <tr v-for="c in shown.codes" :key="c.code" :class="{ now: c.code === shown.code }">
              <td class="mono">{{ c.code }}</td>
              <td>{{ $t($word('controller.level', c.level)) }}</td>
              <td class="wrap">{{ meaning(shown, c) }}</td>
            </tr>
          </tbody>
        </table>
      </details>
    </div>
  </section>
</template>

<style scoped>
.controller {
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
  flex: none;
}
.tabs {
  display: flex;
  flex-wrap: wrap;
  border-bottom: 1px solid var(--c-line);
}
.tabs button {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  min-height: 44px;
  padding: 4px 14px;
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  color: var(--c-ink);
  cursor: pointer;
}
.tabs .on {
  border-bottom-color: var(--c-spruce);
}
.tabs .on .name {
  font-weight: 650;
}
.level {
  font-size: 12px;
  color: var(--c-quiet);
}
.fault .level,
.fault.says,
strong.fault {
  color: var(--c-error);
  font-weight: 650;
}
.attention .level {
  color: var(--c-ink);
  font-weight: 650;
}
.shown {
  padding: 10px 14px;
  display: grid;
  gap: 8px;
}
.says {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
.says strong {
  font-size: 16px;
}
.code {
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 1px 8px;
  font-size: 16px;
}
.grow {
  flex: 1;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 16px;
  margin: 0;
}
dt {
  color: var(--c-quiet);
}
dd {
  margin: 0;
}
summary {
  cursor: pointer;
  color: var(--c-quiet);
}
.now td {
  background: var(--c-tint);
  font-weight: 650;
}
.wrap {
  white-space: normal !important;
}
</style>
