<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '../api/session'
import { clock, moment } from '../kit/moment'
import { visitToSignIn } from './useVisit'

// What the company's directory has to do with signing in: the way to its provider, and
// that it doesn't answer.
const session = useSession()
const directory = computed(() => session.me?.directory)
</script>

<template>
  <div v-if="directory" class="directory">
    <p v-if="directory.down" class="down" role="status">
      {{ $t('directory.down', { title: directory.title, at: moment(directory.down, clock) }) }}
    </p>
    <v-btn v-if="directory.kind === 'openid'" variant="outlined" size="large" @click="visitToSignIn">
      {{ $t('directory.visit', { title: directory.title }) }}
    </v-btn>
    <p v-else-if="!directory.down" class="quiet">{{ $t('directory.same', { title: directory.title }) }}</p>
  </div>
</template>

<style scoped>
.directory {
  display: grid;
  gap: 8px;
}
p {
  margin: 0;
}
.down {
  padding: 8px 10px;
  border-left: 4px solid var(--c-ink);
  background: var(--c-tint);
}
</style>
