import { defineStore } from 'pinia'
import { ref } from 'vue'
import { live } from '../live/live'
import { api, ask, type Me } from './client'

/** Who is signed in at this browser, and what they may do where. */
export const useSession = defineStore('session', () => {
  const me = ref<Me>()

  async function load() {
    me.value = await ask(api.GET('/api/session'))
    return me.value
  }
  async function signIn(name: string, secret: { password?: string; pin?: string }) {
    me.value = await ask(api.POST('/api/session', { body: { name, ...secret } }))
    live.restart()
  }
  async function signOut() {
    await ask(api.DELETE('/api/session'))
    live.stop()
    await load()
  }
  function may(project: string, right: string) {
    return me.value?.projects.find((p) => p.id === project)?.rights.includes(right) ?? false
  }
  return { me, load, signIn, signOut, may }
})
