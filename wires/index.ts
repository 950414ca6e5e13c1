import { connect } from 'node:net'
import { access } from 'node:fs/promises'
import { delimiter, join } from 'node:path'

/** A line to a board: bytes both ways, in order. */
export interface Wire {
  send(bytes: Uint8Array): void
  /** Ends it once all that was sent is out; resolves then. */
  close(): Promise<void>
}

/** Who is at this end of a wire. */
export interface WireEnd {
  heard(bytes: Uint8Array): void
  /** It is gone, though nobody closed it; why. */
  gone(why: string): void
}

/** The usual speed of a board that speaks Firmata, bits a second. */
export const BAUD = 57_600

/** Why a wire could not be opened, for people. */
export class WireError extends Error {}

/** How long a closed wire may take to send what is left, milliseconds. */
const LAST_BYTES = 500

const HOST = /^tcp:\/\/(\[[0-9a-f:]+\]|[^:/]+):(\d+)$/i

/** Whether an address is of a host in a network, and not of a serial port. */
const isTcp = (address: string): boolean => address.startsWith('tcp:')

/** Opens a wire: a serial port by its path, or `tcp://HOST:PORT`. Throws WireError where there is none. */
export function openWire(address: string, baud: number, end: WireEnd): Promise<Wire> {
  return isTcp(address) ? overNetwork(address, end) : overSerial(address, baud, end)
}

function overNetwork(address: string, end: WireEnd): Promise<Wire> {
  const [, host, port] = HOST.exec(address) ?? []
  if (host === undefined || Number(port) > 65_535) return Promise.reject(new WireError(`${address} is no address: expected tcp://HOST:PORT, such as tcp://127.0.0.1:3030`))
  const socket = connect(Number(port), host.replace(/[[\]]/g, ''))
  socket.setNoDelay(true)
  return new Promise((resolve, reject) => {
    let closing = false
    const refused = (error: NodeJS.ErrnoException): void => { reject(new WireError(`${address} cannot be opened: ${error.code === 'ECONNREFUSED' ? 'nothing listens there' : error.message}`)) }
    socket.once('error', refused)
    socket.once('connect', () => {
      socket.off('error', refused)
      socket.on('error', () => undefined)
      socket.on('data', (bytes: Buffer) => { end.heard(bytes) })
      socket.once('close', () => { if (!closing) end.gone('the other end closed it') })
      resolve({
        send: (bytes) => { if (socket.writable) socket.write(bytes) },
        close: () => new Promise((done) => {
          closing = true
          const over = (): void => { socket.destroy(); done() }
          socket.end(over)
          setTimeout(over, LAST_BYTES).unref()
        }),
      })
    })
  })
}

/** As people know what goes wrong with a serial port. */
const SERIAL_TROUBLE: readonly (readonly [RegExp, string])[] = [
  [/no such file|not find|cannot find/i, 'there is no such port'],
  [/permission|access denied/i, 'this account may not open it (on Debian: the group dialout may)'],
  [/lock|busy/i, 'another program has it open'],
]

async function overSerial(path: string, baudRate: number, end: WireEnd): Promise<Wire> {
  // Its native part is loaded only where a wire is used.
  const { SerialPort } = await import('serialport')
  const port = new SerialPort({ path, baudRate, autoOpen: false })
  await new Promise<void>((resolve, reject) => {
    port.open((error) => {
      if (error === null || error === undefined) return resolve()
      reject(new WireError(`${path} cannot be opened: ${SERIAL_TROUBLE.find(([said]) => said.test(error.message))?.[1] ?? error.message}`))
    })
  })
  let closing = false
  port.on('data', (bytes: Buffer) => { end.heard(bytes) })
  port.on('error', (error: Error) => { if (!closing) end.gone(error.message) })
  port.once('close', () => { if (!closing) end.gone('it was pulled out') })
  return {
    send: (bytes) => { if (port.isOpen) port.write(bytes) },
    close: () => new Promise((done) => {
      closing = true
      const over = (): void => { if (port.isOpen) port.close(() => { done() }); else done() }
      const late = setTimeout(over, LAST_BYTES)
      port.drain(() => { clearTimeout(late); over() })
    }),
  }
}

/** A serial port of this machine. */
interface PortFound { readonly address: string, readonly title: string }

/** The serial ports of this machine that something hangs on; null where that cannot be known. */
export async function findPorts(): Promise<readonly PortFound[] | null> {
  // The package ends its process where this one is missing.
  if (process.platform === 'linux' && !await isInPath('udevadm')) return null
  const { SerialPort } = await import('serialport')
  const ports = await SerialPort.list()
  // What came with the machine and has no maker is a socket that nothing hangs on.
  return ports.filter(p => p.vendorId !== undefined || p.manufacturer !== undefined || p.pnpId !== undefined).map(p => ({ address: p.path, title: [p.manufacturer, p.serialNumber].filter(x => x !== undefined).join(' ') }))
}

async function isInPath(program: string): Promise<boolean> {
  for (const folder of (process.env['PATH'] ?? '').split(delimiter)) if (folder !== '' && await access(join(folder, program)).then(() => true, () => false)) return true
  return false
}
