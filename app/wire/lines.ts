import { socketTo } from './socket'

/** Lines to a board as the page holds them: over this machine's server, or by the browser's own serial ports. */

/** Bytes both ways, until it is closed or lost. */
export interface Line {
  send(bytes: Uint8Array<ArrayBuffer>): void
  /** What is to be said last, by whoever is there when the page is not. */
  leave(lastWords: Uint8Array<ArrayBuffer>): void
  close(): void
}

/** Who is at this end of it. `gone`: it could not be opened, or is lost; why. */
export interface LineEnd {
  open(): void
  heard(bytes: Uint8Array): void
  gone(why: string): void
}

/** How long a line may take to be open, milliseconds. */
const OPENS_WITHIN = 8000

/** A wire of the machine that serves the page. */
export function serverLine(address: string, baud: number, end: LineEnd): Line {
  const socket = socketTo('/api/wires/line', { address, baud })
  let over = false
  const lose = (why: string): void => { if (!over) { over = true; clearTimeout(late); end.gone(why) } }
  const late = setTimeout(() => { lose('the server does not answer'); socket.close() }, OPENS_WITHIN)
  socket.onmessage = ({ data }: MessageEvent<string | ArrayBuffer>) => {
    if (over) return
    if (typeof data !== 'string') return end.heard(new Uint8Array(data))
    const said = JSON.parse(data) as { readonly open?: true, readonly gone?: string }
    if (said.gone !== undefined) return lose(said.gone)
    clearTimeout(late)
    end.open()
  }
  socket.onclose = () => { lose('the server has gone: what the board did last may go on') }
  // Whether bytes are to go out now or to be left for later stands before them.
  const pass = (what: 0 | 1, bytes: Uint8Array): void => { if (socket.readyState === WebSocket.OPEN) socket.send(Uint8Array.of(what, ...bytes)) }
  return {
    send: (bytes) => { pass(0, bytes) },
    leave: (lastWords) => { pass(1, lastWords) },
    close: () => { over = true; clearTimeout(late); socket.close() },
  }
}

/** The part of the browser's serial ports that is used here (Web Serial, a draft of the WICG). */
interface SerialPort {
  readonly readable: ReadableStream<Uint8Array> | null
  readonly writable: WritableStream<Uint8Array> | null
  open(options: { readonly baudRate: number }): Promise<void>
  close(): Promise<void>
}
interface Serial { requestPort(): Promise<SerialPort> }

const serial = (): Serial | null => (navigator as Navigator & { readonly serial?: Serial }).serial ?? null
/** Whether this browser can reach serial ports itself. */
export const hasSerial = (): boolean => serial() !== null

/** A serial port that the person chooses from the browser's own list: only at a press of a key or button. */
export function ownLine(baud: number, end: LineEnd): Line {
  let port: SerialPort | null = null
  let writer: WritableStreamDefaultWriter<Uint8Array> | null = null
  let reader: ReadableStreamDefaultReader<Uint8Array> | null = null
  let lastWords: Uint8Array<ArrayBuffer> | null = null
  let over = false
  const lose = (why: string): void => { if (!over) { over = true; end.gone(why) } }

  async function read(): Promise<void> {
    const source = await serial()!.requestPort()
    await source.open({ baudRate: baud })
    port = source
    writer = source.writable!.getWriter()
    reader = source.readable!.getReader()
    // Closed while it was being opened.
    if (over) return end_()
    end.open()
    for (;;) {
      const { value, done } = await reader.read()
      if (done) break
      end.heard(value)
    }
    lose('it was closed')
  }
  async function end_(): Promise<void> {
    await reader?.cancel()
    reader?.releaseLock()
    await writer?.close()
    await port?.close()
  }
  read().catch((error: unknown) => { lose(error instanceof DOMException && error.name === 'NotFoundError' ? 'no port was chosen' : error instanceof Error ? error.message : String(error)) })
  return {
    send: (bytes) => { writer?.write(bytes).catch(() => { lose('it was pulled out') }) },
    leave: (words) => { lastWords = words },
    close() {
      over = true
      if (lastWords !== null) writer?.write(lastWords).catch(() => undefined)
      // Its own failures come to nothing: it is done with.
      end_().catch(() => undefined)
    },
  }
}
