import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { LinkState, ToSimulation } from '~/run/protocol'
import { useKept } from '~/composables/useKept'
import { api, type Wires } from '~/utils/api'
import { hasSerial, ownLine, serverLine, type Line } from './lines'

/** The browser's own list of ports, among the addresses. */
export const OWN = 'browser'

/**
 * The wire to a board, above the views: the page holds the line, the run's worker has the devices at its other end. While it is there, a run has real devices.
 */
export const useWireStore = defineStore('wire', () => {
  /** The wires of the machine that serves the page; null until they are known. */
  const known = shallowRef<Wires | null>(null)
  /** Why they are not. */
  const unknown = ref<string | null>(null)
  const address = useKept('wire.address', '')
  const baud = useKept('wire.baud', 57_600)
  /** Devices that are to be simulated though they could be real, by robot. */
  const simulated = useKept<Readonly<Record<string, readonly string[]>>>('wire.simulated', {})
  const stage = ref<'none' | 'opening' | 'open'>('none')
  /** Why there is no wire any more, or why it could not be; null where nothing is wrong. */
  const why = ref<string | null>(null)
  /** How the devices at its end stand; null until they are asked. */
  const link = shallowRef<LinkState | null>(null)
  let line: Line | null = null
  /** Sends to the run's worker, and the robot that is joined. */
  let send: (message: ToSimulation) => void = () => undefined
  /** What else stops, when the robot is stopped. */
  let besides: () => void = () => undefined
  let robot: { readonly name: string, readonly document: unknown } | null = null

  const connected = computed(() => stage.value === 'open')
  /** Whether runs have real devices: they may still be on their way to be there. */
  const real = computed(() => connected.value && link.value?.stage !== 'lost')

  async function find(): Promise<void> {
    const answer = await api.wires()
    known.value = answer.ok ? answer.value : known.value
    unknown.value = answer.ok ? null : answer.message
  }

  /** The run's worker is another from now on; `to` sends to it. */
  function attach(to: (message: ToSimulation) => void): void {
    send = to
    if (connected.value) join()
  }

  /** The robot that is at the other end. */
  function of(name: string, document: unknown): void {
    if (robot !== null && JSON.stringify(robot.document) === JSON.stringify(document)) return
    robot = { name, document }
    if (connected.value) join()
  }

  function join(): void {
    if (robot === null) return
    link.value = null
    send({ type: 'join', robot: JSON.parse(JSON.stringify(robot.document)) as unknown, simulated: [...simulated.value[robot.name] ?? []] })
  }

  function connect(): void {
    disconnect()
    why.value = null
    stage.value = 'opening'
    const end = {
      open: () => { stage.value = 'open'; join() },
      heard: (bytes: Uint8Array) => { send({ type: 'heard', bytes }) },
      gone: (reason: string) => { drop(`the wire is gone: ${reason}`); why.value = reason },
    }
    line = address.value === OWN ? ownLine(baud.value, end) : serverLine(address.value, baud.value, end)
  }

  function drop(because: string | null): void {
    line = null
    link.value = null
    if (stage.value === 'open') send({ type: 'part', why: because })
    stage.value = 'none'
  }

  /** Has all of it stand, and lets the wire go. */
  function disconnect(): void {
    stop()
    line?.close()
    drop(null)
    why.value = null
  }

  /** Has all that is real stand at once, whatever the run does: from the page itself, past the worker. */
  function stop(): void {
    const words = link.value?.lastWords
    if (words != null) line?.send(Uint8Array.from(words))
  }

  /** Stops the real robot, wherever somebody is on the page and whatever has the focus, and the run with it. */
  function halt(): void {
    stop()
    besides()
  }
  const whenHalted = (act: () => void): void => { besides = act }
  useEventListener(globalThis, 'keydown', (event: KeyboardEvent) => { if (event.key === 'Escape' && connected.value) halt() }, { capture: true })

  function tell(bytes: Uint8Array<ArrayBuffer>): void { line?.send(bytes) }
  function hear(state: LinkState): void {
    if (!connected.value) return
    if (state.lastWords !== null && link.value?.lastWords == null) line?.leave(Uint8Array.from(state.lastWords))
    link.value = state
  }

  /** Whether a device is to be simulated though it could be real. */
  const isSimulated = (of: string, device: string): boolean => simulated.value[of]?.includes(device) === true
  function simulate(of: string, device: string, on: boolean): void {
    const others = (simulated.value[of] ?? []).filter(d => d !== device)
    simulated.value = { ...simulated.value, [of]: on ? [...others, device] : others }
    if (connected.value && robot?.name === of) join()
  }

  // Where the page's own port is the wire, nobody else can say the last words.
  useEventListener('pagehide', () => { disconnect() })

  return { known, unknown, address, baud, stage, why, link, connected, real, hasSerial: hasSerial(), find, attach, of, connect, disconnect, stop, halt, whenHalted, tell, hear, isSimulated, simulate }
})
