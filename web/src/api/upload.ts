/** What of a call carries a file as its body, as it is. */
export const asFile = (file: Blob) => ({
  body: file as unknown as string,
  bodySerializer: (b: unknown) => b as Blob,
  headers: { 'Content-Type': 'application/octet-stream' },
})
