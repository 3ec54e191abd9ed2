import { onScopeDispose, ref, watch, type Ref } from 'vue'

/**
 * Which of the elements marked data-id are in view within a scroller: at least
 * half of their height. What is scrolled out is not among them.
 */
export function useInView(scroller: Ref<HTMLElement | undefined>, list: Ref<readonly unknown[]>) {
  const ids = ref(new Set<string>())
  let observer: IntersectionObserver | undefined
  function renew() {
    observer?.disconnect()
    if (!scroller.value) return void (ids.value = new Set())
    const rows = [...scroller.value.querySelectorAll<HTMLElement>('[data-id]')]
    const here = new Set(rows.map((r) => r.dataset.id!))
    ids.value = new Set([...ids.value].filter((id) => here.has(id)))
    observer = new IntersectionObserver(
      (entries) => {
        const next = new Set(ids.value)
        for (const e of entries) {
          const id = (e.target as HTMLElement).dataset.id!
          if (e.isIntersecting) next.add(id)
          else next.delete(id)
        }
        ids.value = next
      },
      { root: scroller.value, threshold: 0.5 },
    )
    for (const row of rows) observer.observe(row)
  }
  watch([scroller, list], renew, { flush: 'post', immediate: true })
  onScopeDispose(() => observer?.disconnect())
  return ids
}
