import { createServer, type Server, type Socket } from 'node:net'
import { WireError } from '../../wires'
import { endsWithServer } from '../utils/streams'

/** Who poses as a board: hears of clients, and what they say. */
export interface Poser {
  came(): void
  heard(bytes: Uint8Array): void
  left(): void
}

/** A port of this machine, and of it alone, at which a page's simulated robot poses as a board. One client at a time. */
export class PosedBoard {
  private readonly server: Server
  private client: Socket | null = null
  private readonly done: () => void

  constructor(private readonly poser: Poser) {
    this.done = endsWithServer(() => { this.close() })
    this.server = createServer((socket) => { this.take(socket) })
  }

  /** Listens; 0 for any port that is free. Resolves with the port; WireError where it cannot. */
  listen(port: number): Promise<number> {
    return new Promise((resolve, reject) => {
      this.server.once('error', (error: NodeJS.ErrnoException) => {
        this.close()
        reject(new WireError(error.code === 'EADDRINUSE' ? `something listens at port ${port} already` : `port ${port}: ${error.message}`))
      })
      this.server.listen(port, '127.0.0.1', () => { resolve((this.server.address() as { readonly port: number }).port) })
    })
  }

  private take(socket: Socket): void {
    if (this.client !== null) { socket.destroy(); return }
    this.client = socket
    socket.setNoDelay(true)
    socket.on('data', (bytes: Buffer) => { this.poser.heard(bytes) })
    socket.on('error', () => undefined)
    socket.once('close', () => {
      this.client = null
      this.poser.left()
    })
    this.poser.came()
  }

  send(bytes: Uint8Array): void { if (this.client?.writable === true) this.client.write(bytes) }

  close(): void {
    this.done()
    this.client?.destroy()
    this.server.close()
  }
}
