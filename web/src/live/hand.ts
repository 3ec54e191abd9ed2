/** What presses a button: a pointer, a key with the focus on it, or a function key wherever the focus is. */
export type By = { pointer: number } | { key: string; focus: boolean }

/**
 * Watches over the hand that holds a button, at the window, so that its end is
 * noticed wherever it happens: the pointer or key let go, another pointer or
 * key, the button without focus or taken from the page, a menu, the window or
 * page out of sight. The function it returns ends the watch.
 */
export function watchHand(
  node: Element,
  by: By,
  gone: (reason: string) => void,
): { alive: () => boolean; stop: () => void } {
  const all = new AbortController()
  const on = <T extends Event>(target: EventTarget, name: string, f: (e: T) => void) =>
    target.addEventListener(name, f as EventListener, { capture: true, signal: all.signal })
  const pointer = 'pointer' in by ? by.pointer : -1
  const key = 'key' in by ? by.key : ''
  const focused = 'focus' in by && by.focus

  for (const name of ['pointerup', 'pointercancel'])
    on<PointerEvent>(window, name, (e) => e.pointerId === pointer && gone('let go'))
  on<PointerEvent>(window, 'lostpointercapture', (e) => e.pointerId === pointer && gone('let go'))
  on<PointerEvent>(window, 'pointerdown', (e) => e.pointerId !== pointer && gone('a second pointer'))
  // A mouse whose button was let go outside tells it by its next move.
  on<PointerEvent>(window, 'pointermove', (e) => e.pointerId === pointer && e.buttons === 0 && gone('let go'))
  on<KeyboardEvent>(window, 'keyup', (e) => e.key === key && gone('let go'))
  on<KeyboardEvent>(window, 'keydown', (e) => (e.key !== key || !e.repeat) && gone('another key'))
  if (focused) on(node, 'blur', () => gone('the button lost the focus'))
  on<PointerEvent>(window, 'contextmenu', (e) => {
    // A finger that rests is no wish for a menu.
    if (e.pointerType === 'touch' && node.contains(e.target as Node)) e.preventDefault()
    else gone('a menu opened')
  })
  // The blur of an element passes here too.
  on(window, 'blur', (e) => e.target === window && gone('the page lost its focus'))
  on(window, 'pagehide', () => gone('the page was left'))
  on(document, 'visibilitychange', () => gone('the page was hidden'))
  on(document, 'freeze', () => gone('the page stood still'))

  const alive = () =>
    node.isConnected &&
    document.visibilityState === 'visible' &&
    document.hasFocus() &&
    (!focused || document.activeElement === node)
  return { alive, stop: () => all.abort() }
}
