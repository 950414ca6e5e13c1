/** Hands a file to whoever sits at the browser. */
export function saveAs(name: string, content: BlobPart, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([content], { type }))
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}

/** A title as a name of files: lower case, words with dashes. */
export function fileName(title: string, otherwise: string): string {
  return title.toLowerCase().replaceAll(/[^a-z0-9]+/g, '-').replaceAll(/^-|-$/g, '') || otherwise
}
