/** Gives the browser a file to keep. */
function keep(file: Blob, name: string) {
  const at = URL.createObjectURL(file)
  const link = document.createElement('a')
  link.href = at
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(at), 10_000)
}

export const saveSvg = (svg: string, name: string) =>
  keep(new Blob([svg], { type: 'image/svg+xml' }), name + '.svg')

/** Draws an SVG twice as finely as it is large, and keeps that. */
export async function savePng(svg: string, name: string) {
  const image = new Image()
  image.src = 'data:image/svg+xml;charset=utf-8,' + encodeURIComponent(svg)
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = 2 * image.width
  canvas.height = 2 * image.height
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
  const file = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'))
  if (file) keep(file, name + '.png')
}
