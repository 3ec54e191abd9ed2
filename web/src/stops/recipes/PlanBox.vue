<script setup lang="ts">
import type { Schemas } from '../../api/client'
import DialogBox from '../../kit/DialogBox.vue'
import PathText from '../../kit/PathText.vue'

// A dialogue over an edit in bulk: what is asked for above, what would be made below,
// and the press that makes it.
defineProps<{
  title: string
  why: string
  plan: Schemas['Plan'] | undefined
  problem: string
  busy: boolean
  made: number
  act: string
}>()
const emit = defineEmits<{ apply: []; close: [] }>()
const from: Record<string, 'book.there' | 'book.ignored'> = { same: 'book.there', ignored: 'book.ignored' }
</script>

<template>
  <DialogBox :label="title" @close="emit('close')">
    <form class="box" @submit.prevent="emit('apply')">
      <h2>{{ title }}</h2>
      <p class="quiet">{{ why }}</p>
      <slot />
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <div v-if="plan?.lines.length" class="lines">
        <table class="grid">
          <tbody>
            <tr v-for="(l, i) in plan.lines" :key="i">
              <td class="mono"><PathText :path="l.path" /></td>
              <td class="mono">{{ l.address }}</td>
              <td>{{ l.text }}</td>
              <td v-if="l.problem" class="err">{{ l.problem }}</td>
              <td v-else-if="l.used" class="warn">{{ $t('bulk.used', { path: l.used }) }}</td>
              <td v-else class="quiet">{{ l.from && from[l.from] ? $t(from[l.from]!) : '' }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div class="foot">
        <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
        <v-btn type="submit" color="primary" :loading="busy" :disabled="!made || !!plan?.problems">
          {{ act }}
        </v-btn>
      </div>
    </form>
  </DialogBox>
</template>

<style scoped>
.box {
  display: grid;
  gap: 12px;
  padding: 18px 20px;
  width: min(760px, 94vw);
  font-size: 14px;
}
p {
  margin: 0;
}
.lines {
  max-height: 44vh;
  overflow: auto;
  border: 1px solid var(--c-line);
}
.lines .err,
.lines .warn {
  white-space: normal;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
