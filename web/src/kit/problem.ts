import { defineStore } from 'pinia'
import { ref } from 'vue'
import { sentence } from '../api/client'

/** One line at the foot of the window: what was refused, or what was done and can be undone. */
export const useNotice = defineStore('notice', () => {
  const text = ref('')
  const bad = ref(false)
  let timer = 0

  function show(message: string, isBad: boolean) {
    text.value = message
    bad.value = isBad
    clearTimeout(timer)
    timer = window.setTimeout(() => (text.value = ''), isBad ? 12000 : 4000)
  }
  return {
    text,
    bad,
    say: (m: string) => show(m, false),
    refuse: (e: unknown) => show(sentence(e), true),
    clear: () => (text.value = ''),
  }
})
