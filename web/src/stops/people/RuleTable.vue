<script setup lang="ts">
import type { Rules } from './useRules'
import RuleTry from './RuleTry.vue'

// The rules of what a write asks in one table, and a place to try them.
defineProps<{ known: Rules; open?: string }>()
const emit = defineEmits<{ open: [rule: string] }>()
</script>

<template>
  <p class="quiet intro">{{ $t('rules.intro') }}</p>
  <p v-if="!known.rules.value.length">{{ $t('rules.none') }}</p>
  <table v-else class="grid">
    <thead>
      <tr>
        <th>{{ $t('rules.name') }}</th>
        <th>{{ $t('rules.where') }}</th>
        <th>{{ $t('rules.does') }}</th>
        <th>{{ $t('rules.role') }}</th>
        <th>{{ $t('rules.asks') }}</th>
        <th class="n" :title="$t('rules.appliesWhy')">{{ $t('rules.applies') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in known.rules.value" :key="r.id" :class="{ on: r.id === open }">
        <td>
          <button class="bare" :title="r.note" @click="emit('open', r.id)">
            <strong>{{ r.name }}</strong>
          </button>
        </td>
        <td :title="known.where(r).join(' · ')">
          {{ known.where(r).join(' · ') || $t('rules.anywhere') }}
        </td>
        <td>{{ $t($word('rules.doing', r.does || 'all')) }}</td>
        <td>{{ known.named(known.roles.value, r.role) || $t('rules.everybody') }}</td>
        <td class="asks" :title="known.phrases(r.asks).join(' · ')">
          {{ known.phrases(r.asks).join(' · ') || '—' }}
        </td>
        <td class="n mono">{{ r.applies }}</td>
      </tr>
    </tbody>
  </table>
  <RuleTry :known="known" @open="emit('open', $event)" />
</template>

<style scoped>
.intro {
  max-width: 860px;
}
td {
  max-width: 210px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.grid {
  margin-bottom: 28px;
}
.n {
  text-align: right;
}
</style>
