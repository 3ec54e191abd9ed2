/** Saves the screen that the editor draws as a picture, as it looks now. */
export async function saveScreen(
  screen: { name: string; width: number; height: number },
  background: string,
  as: 'svg' | 'png',
) {
  const drawn = document.querySelector('.frame > svg.screen-svg')
  if (!drawn) return
  const svg = document.createElementNS('http://www.w3.org/2000/svg', 'svg')
  svg.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  svg.setAttribute('viewBox', `0 0 ${screen.width} ${screen.height}`)
  svg.setAttribute('width', String(screen.width))
  svg.setAttribute('height', String(screen.height))
  for (const d of drawn.querySelectorAll(':scope > defs')) svg.appendChild(d.cloneNode(true))
  const ground = document.createElementNS('http://www.w3.org/2000/svg', 'rect')
  ground.setAttribute('width', String(screen.width))
  ground.setAttribute('height', String(screen.height))
  ground.setAttribute('fill', background)
  svg.appendChild(ground)
  const content = drawn.querySelector(':scope > g[data-root]')
  if (content) svg.appendChild(content.cloneNode(true))
  // Lists that the page brings to life stay frames in a picture.
  for (const live of svg.querySelectorAll('foreignObject')) live.remove()
  // Colours and type are the page's: a picture stands alone.
  const page = getComputedStyle(document.documentElement)
  const text = new XMLSerializer()
    .serializeToString(svg)
    .replace(
      /var\((--[\w-]+)\)/g,
      (_, name: string) => page.getPropertyValue(name).trim().replaceAll('"', "'") || 'none',
    )
  const blob = new Blob([text], { type: 'image/svg+xml' })
  if (as === 'svg') return save(blob, screen.name + '.svg')
  const image = new Image()
  const url = URL.createObjectURL(blob)
  await new Promise((done, fail) => {
    image.onload = done
    image.onerror = fail
    image.src = url
  })
  const canvas = document.createElement('canvas')
  canvas.width = screen.width * 2
  canvas.height = screen.height * 2
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
  URL.revokeObjectURL(url)
  canvas.toBlob((b) => b && save(b, screen.name + '.png'))
}

function save(blob: Blob, name: string) {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(blob)
  a.download = name
  a.click()
  setTimeout(() => URL.revokeObjectURL(a.href), 1000)
}
