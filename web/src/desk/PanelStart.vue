<script setup lang="ts">
import { onMounted } from 'vue'
import { useRouter } from 'vue-router'
import { useSession } from '../api/session'

// Where the application of a panel starts: at the Desk of the project that the panel is
// of; elsewhere where everybody starts.
const session = useSession()
const router = useRouter()
onMounted(async () => {
  const me = await session.load().catch(() => undefined)
  const project = me?.panelOf
  await router.replace(project ? { name: 'desk', params: { project } } : { name: 'start' })
})
</script>

<template>
  <div />
</template>
