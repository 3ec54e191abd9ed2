<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { onUnmounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { provideAround } from '../canvas/around'
import { sentence } from '../api/client'
import { useSession } from '../api/session'
import NoticeLine from '../kit/NoticeLine.vue'
import { live } from '../live/live'
import FinderBox from './FinderBox.vue'
import HeaderBar from './HeaderBar.vue'
import { useProject } from './project'
import RailNav from './RailNav.vue'
import ShortcutList from './ShortcutList.vue'
import WatchStrip from './WatchStrip.vue'

const route = useRoute()
const router = useRouter()
const session = useSession()
const project = useProject()
provideAround({ picture: (id) => `/api/projects/${project.id}/pictures/${id}` })
const { t } = useI18n()
const ready = ref(false)
const problem = ref('')
const finding = ref(false)
const shortcuts = ref(false)

watch(
  () => route.params.project as string,
  async (id) => {
    if (!id) return
    try {
      if (!session.me) await session.load()
      if (!session.me?.person || session.me.person.nobody)
        return void router.replace({ name: 'start', query: { next: route.fullPath } })
      await project.open(id)
      ready.value = true
    } catch (e) {
      problem.value = sentence(e)
    }
  },
  { immediate: true },
)
onUnmounted(() => project.leave())
// A session that ended elsewhere: the sign-in, and back to this place after it.
watch(
  () => session.me?.person,
  (person) =>
    (!person || person.nobody) &&
    ready.value &&
    void router.replace({ name: 'start', query: { next: route.fullPath } }),
)

function typing(e: KeyboardEvent) {
  const el = e.target as HTMLElement
  return el.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(el.tagName)
}
useEventListener('keydown', (e: KeyboardEvent) => {
  const ctrl = e.ctrlKey || e.metaKey
  if (ctrl && e.key.toLowerCase() === 'k') {
    e.preventDefault()
    finding.value = true
  } else if (ctrl && e.key === '/') {
    e.preventDefault()
    shortcuts.value = !shortcuts.value
  } else if (ctrl && !typing(e) && (e.key.toLowerCase() === 'z' || e.key.toLowerCase() === 'y')) {
    e.preventDefault()
    const redo = e.shiftKey || e.key.toLowerCase() === 'y'
    void project.step(redo ? 'redo' : 'undo', (label) =>
      t(redo ? 'notice.redone' : 'notice.undone', { label }),
    )
  }
})
</script>

<template>
  <div class="shell">
    <RailNav v-if="ready" />
    <div class="side">
      <HeaderBar v-if="ready" @find="finding = true" />
      <div v-if="problem" class="empty">
        <h2>{{ $t('shell.closed') }}</h2>
        <p>{{ problem }}</p>
        <router-link to="/">{{ $t('rail.start') }}</router-link>
      </div>
      <main v-if="ready"><router-view /></main>
      <div v-if="ready && !(live.connected.value && project.reached)" class="offline" role="status">
        {{ $t('shell.offline') }}
      </div>
      <NoticeLine />
      <WatchStrip v-if="ready" />
    </div>
    <FinderBox v-model="finding" />
    <ShortcutList v-model="shortcuts" />
  </div>
</template>

<style scoped>
.shell {
  display: flex;
  height: 100vh;
}
.side {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  position: relative;
}
main {
  flex: 1;
  min-height: 0;
}
.offline {
  background: var(--c-critical);
  color: #fff;
  text-align: center;
  padding: 4px;
}
</style>
