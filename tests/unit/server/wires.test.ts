import { createServer, type AddressInfo, type Server, type Socket } from 'node:net'
import { afterEach, beforeEach, describe, expect, test } from 'vitest'
import { UsedWire, wiresNow } from '../../../server/wires/wires'

/** Wires of a machine in the hands of pages: a line of a network stands for a board. */

let board: Server
let address = ''
/** Bytes that came to the board, and who is at its end. */
let heard: number[] = []
let ends: Socket[] = []
beforeEach(async () => {
  heard = []
  ends = []
  board = createServer((socket) => {
    ends.push(socket)
    socket.on('data', (bytes: Buffer) => { heard.push(...bytes) }).on('error', () => undefined)
  })
  await new Promise<void>((done) => { board.listen(0, '127.0.0.1', done) })
  address = `tcp://127.0.0.1:${(board.address() as AddressInfo).port}`
  process.env['MINDPATH_WIRES'] = address
})
afterEach(() => {
  delete process.env['MINDPATH_WIRES']
  for (const socket of ends) socket.destroy()
  board.close()
})

const nobody = { heard: () => undefined, gone: () => undefined }
const refused = async (at: string): Promise<string> => {
  try {
    await new UsedWire(at, nobody).open(57_600)
    return ''
  } catch (error) {
    return (error as Error).message
  }
}

describe('a wire', () => {
  test('that was named at the start is one of this machine\u2019s, and no other is opened', async () => {
    expect((await wiresNow()).wires.map(w => w.address)).toContain(address)
    expect(await refused('/etc/hostname')).toMatch(/^\/etc\/hostname is none of this machine's wires; there are /)
  })
  test('says its last words when it is let go, and is free then', async () => {
    const wire = new UsedWire(address, nobody)
    await wire.open(57_600)
    wire.lastWords = Uint8Array.of(7, 8, 9)
    wire.send(Uint8Array.of(1))
    await wire.letGo()
    await expect.poll(() => heard).toEqual([1, 7, 8, 9])
    expect(await refused(address)).toBe('')
  })
  test('stays taken by one page while another that wanted it goes, at whatever moment', async () => {
    const first = new UsedWire(address, nobody)
    await first.open(57_600)
    const second = new UsedWire(address, nobody)
    const opening = second.open(57_600).catch((error: unknown) => (error as Error).message)
    await second.letGo()
    expect(await opening).toBe(`${address} is in use by another page`)
    expect(await refused(address)).toBe(`${address} is in use by another page`)
    await first.letGo()
  })
  test('whose page goes while it is being opened is closed, and free again', async () => {
    const gone = new UsedWire(address, nobody)
    const opening = gone.open(57_600)
    await gone.letGo()
    await opening
    await expect.poll(() => ends.every(e => e.destroyed || e.readableEnded)).toBe(true)
    const next = new UsedWire(address, nobody)
    await next.open(57_600)
    await next.letGo()
  })
  test('that is lost is told of once, and free again', async () => {
    const told: string[] = []
    const wire = new UsedWire(address, { heard: () => undefined, gone: (why) => { told.push(why) } })
    await wire.open(57_600)
    for (const socket of ends) socket.destroy()
    await expect.poll(() => told).toEqual(['the other end closed it'])
    await wire.letGo()
    expect(await refused(address)).toBe('')
  })
})
