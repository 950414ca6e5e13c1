import { useEventListener, useFileDialog } from '@vueuse/core'

/** Asks for one file of these kinds; `take` gets it. */
export function usePickedFile(accept: string, take: (file: File) => void): () => void {
  const { open, onChange } = useFileDialog({ accept, multiple: false, reset: true })
  onChange((list) => { if (list?.[0] !== undefined) take(list[0]) })
  return open
}

/** Takes a file that is dropped anywhere on the page. */
export function useDroppedFile(take: (file: File) => void): void {
  const files = (event: DragEvent): FileList | null => event.dataTransfer?.types.includes('Files') === true ? event.dataTransfer.files : null
  useEventListener('dragover', (event: DragEvent) => { if (files(event) !== null) event.preventDefault() })
  useEventListener('drop', (event: DragEvent) => {
    const list = files(event)
    if (list === null) return
    event.preventDefault()
    if (list[0] !== undefined) take(list[0])
  })
}
