/**
 * Gives colours and fonts of the style sheet as a drawing takes them: variables
 * and mixtures are resolved within an element.
 */
export function painter(within: HTMLElement): (css: string) => string {
  return (css) => {
    const variable = /^var\((--mono|--sans)\)$/.exec(css)
    if (variable) return getComputedStyle(document.documentElement).getPropertyValue(variable[1]!)
    const probe = document.createElement('span')
    probe.style.color = css
    within.append(probe)
    const colour = getComputedStyle(probe).color
    probe.remove()
    return colour
  }
}
