<script setup lang="ts">
import { api, ask } from '../api/client'
import { useSession } from '../api/session'
import { usePresence } from '../kit/presence'

// Signs out whom the panel or a role lets rest for some minutes only, after a warning.
// The server does so a little later by itself, also where this page stands still.
const session = useSession()
const { left, warns, touched } = usePresence(
  () => (session.me?.person && !session.me.person.nobody ? session.me.rest * 1000 : undefined),
  () =>
    void ask(api.POST('/api/session/presence')).then(
      ({ seconds }) => session.me && (session.me.rest = seconds),
      () => {},
    ),
  // Refused while something is held or under way: then the session goes on.
  () => void session.signOut(true).catch(() => touched()),
)
</script>

<template>
  <div v-if="warns" class="rest" role="alert">
    <span>{{ $t('rest.soon', { n: left }) }}</span>
    <button @click="touched">{{ $t('rest.stay') }}</button>
  </div>
</template>

<style scoped>
/* Over everything but a dialogue, which any touch of it keeps open anyway. */
.rest {
  position: fixed;
  left: 50%;
  bottom: 24px;
  transform: translateX(-50%);
  z-index: 3000;
  width: max-content;
  max-width: 94vw;
  box-sizing: border-box;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 18px;
  padding: 12px 18px;
  border: 2px solid var(--c-ink);
  border-radius: 6px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 18px;
  box-shadow: 0 10px 40px #0005;
}
button {
  min-height: 48px;
  padding: 0 18px;
  border: 1.5px solid var(--c-spruce);
  border-radius: 4px;
  background: var(--c-spruce);
  color: var(--c-on-spruce);
  font-size: 17px;
  font-weight: 650;
  cursor: pointer;
}
</style>
