/** A name as a folder of tags can have it. */
export function folderName(name: string): string {
  return name.replace(/[^A-Za-z0-9]+/g, '_').replace(/^[^A-Za-z]+|_+$/g, '') || 'Recipe'
}
