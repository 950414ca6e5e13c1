import { defineStore } from 'pinia'
import { ref } from 'vue'
import { useKept } from '~/composables/useKept'
import { useSessionStore } from '~/run/session'
import { socketTo } from './socket'

/** The simulated robot as a board at a port of the machine that serves the page: a client drives it through pins, live. */
export const usePoseStore = defineStore('pose', () => {
  const session = useSessionStore()
  /** The port that is asked for. */
  const port = useKept('pose.port', 3030)
  const stage = ref<'none' | 'opening' | 'listening' | 'driven'>('none')
  /** The port at which it listens. */
  const at = ref(0)
  const why = ref<string | null>(null)
  let socket: WebSocket | null = null

  /** Listens; `begin` opens the run that a client drives, whenever one comes. */
  function listen(begin: () => void): void {
    close()
    const made = socket = socketTo('/api/wires/board', { port: port.value })
    stage.value = 'opening'
    session.whenAnswered((bytes) => { if (made.readyState === WebSocket.OPEN) made.send(bytes) })
    made.onmessage = ({ data }: MessageEvent<string | ArrayBuffer>) => {
      if (socket !== made) return
      if (typeof data !== 'string') return session.client(new Uint8Array(data))
      const said = JSON.parse(data) as { readonly listening?: number, readonly client?: boolean, readonly gone?: string }
      if (said.listening !== undefined) { at.value = said.listening; stage.value = 'listening' }
      else if (said.client === true) { stage.value = 'driven'; begin() }
      else if (said.client === false) { stage.value = 'listening'; session.client(null) }
      else if (said.gone !== undefined) { close(); why.value = said.gone }
    }
    made.onclose = () => { if (socket === made) { close(); why.value = 'the server has gone' } }
  }

  function close(): void {
    const old = socket
    socket = null
    why.value = null
    if (stage.value === 'driven') session.client(null)
    stage.value = 'none'
    old?.close()
  }

  return { port, stage, at, why, listen, close }
})
