import { ref } from 'vue'

/** The line in the banner that says how an entry went: a refusal stays longer than a success. */
export function useBannerLine() {
  const message = ref('')
  const bad = ref(false)
  let clear = 0
  function say(text: string, isBad: boolean) {
    message.value = text
    bad.value = isBad
    clearTimeout(clear)
    clear = window.setTimeout(() => (message.value = ''), isBad ? 15000 : 4000)
  }
  return { message, bad, say }
}
