import { defineStore } from 'pinia'
import { ref } from 'vue'
import { live } from '../live/live'
import { api, ask, type Me, type Schemas, signedOut } from './client'

/** Who is signed in at this browser, and what they may do where. */
export const useSession = defineStore('session', () => {
  const me = ref<Me>()

  async function load() {
    me.value = await ask(api.GET('/api/session'))
    return me.value
  }
  /** Which pages the server has now; empty where it does not answer. */
  const serves = () =>
    ask(api.GET('/api/session')).then(
      (now) => now.build,
      () => '',
    )
  /** Signs in; where something more is asked for it says what, and nobody is signed in yet. */
  async function signIn(secret: Schemas['SignIn']) {
    const told = await ask(api.POST('/api/session', { body: secret }))
    if (!told.asksCode && !told.asksPin) become(told)
    return told
  }
  /** Leaves the screen that somebody signed in for: the panel is whose it was. */
  const endVisit = async () => become(await ask(api.DELETE('/api/session/visit')))
  /** Takes what the server says of whoever is signed in now. */
  function become(told: Me) {
    me.value = told
    live.restart()
  }
  /** Signs out; of rest, the server refuses while something is held or under way. */
  async function signOut(rest = false) {
    await ask(api.DELETE('/api/session', { params: { query: { rest } } }))
    live.stop()
    // A panel may go on showing its project.
    if ((await load())?.person) live.restart()
  }
  /** Sets one's own password or PIN; after a secret that somebody else set, or with the present one. */
  async function choose(secret: { password?: string; pin?: string; present?: string }) {
    me.value = await ask(api.POST('/api/session/secret', { body: secret }))
    live.restart()
  }
  /** Looks with the rights of a role in an area, '' for the whole plant, until that is ended. */
  async function lookAs(project: string, role: string, area: string) {
    const params = { path: { project } }
    me.value = await ask(
      api.POST('/api/projects/{project}/look-as', { params, body: { role, area: area || undefined } }),
    )
    live.restart()
  }
  async function endLookAs() {
    me.value = await ask(api.DELETE('/api/session/as'))
    live.restart()
  }
  /** The session has ended, here or elsewhere. */
  function ended() {
    if (!me.value?.person) return
    me.value = { ...me.value, person: undefined, projects: [] }
    live.stop()
    void load().then(
      (now) => now?.person && live.restart(),
      () => {},
    )
  }
  signedOut.tell = ended
  // A connection that cannot be made may be a session that is over.
  live.onFail(
    () =>
      void ask(api.GET('/api/session'))
        .then((now) => now.person?.id !== me.value?.person?.id && ended())
        .catch(() => {}),
  )
  function may(project: string, right: string) {
    return me.value?.projects.find((p) => p.id === project)?.rights.includes(right) ?? false
  }
  return { me, load, serves, become, endVisit, signIn, signOut, choose, lookAs, endLookAs, may }
})
