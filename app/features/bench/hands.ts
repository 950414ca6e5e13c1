import { defineStore, storeToRefs } from 'pinia'
import { computed, reactive, ref, watch } from 'vue'
import { ROBOT } from '~~/core/simulation'
import { yawAt } from '~/shown/poses'
import { useBenchStore } from './bench'

/** How far before the robot's middle one claps, metres. */
const CLAP_AHEAD = 0.5
/** How hard a knock is, metres a second: what is as tall as a hand falls over. */
const KNOCK = 0.5

/** What hands do in the run: what is held before which device, covered, pressed, taken away, and how the lamps are dimmed. A new run begins without. */
export const useHandsStore = defineStore('hands', () => {
  const bench = useBenchStore()
  const { opened, inReach } = storeToRefs(bench)
  /** Metres from a device to the hand before it, by device. */
  const before = reactive(new Map<string, number>())
  const covered = reactive(new Set<string>())
  const pressed = reactive(new Set<string>())
  /** Pieces that were taken away. */
  const away = reactive(new Set<string>())
  /** So many times what the arena says. */
  const light = ref(1)
  /** What one has in hand: the robot or a piece. */
  const chosen = ref(ROBOT)

  watch(opened, () => {
    for (const held of [before, covered, pressed, away]) held.clear()
    light.value = 1
    if (!things.value.includes(chosen.value)) chosen.value = ROBOT
  })

  /** All that can be taken in hand. */
  const things = computed(() => [ROBOT, ...opened.value?.layout.pieceNames ?? []])
  const isAway = computed(() => away.has(chosen.value))

  function hold(device: string, distance: number | null): void {
    if (distance === null) before.delete(device)
    else before.set(device, distance)
    bench.poke({ poke: 'hand', device, distance })
  }
  const mark = (set: Set<string>, name: string, on: boolean): void => { if (on) set.add(name); else set.delete(name) }
  function cover(device: string, on: boolean): void {
    mark(covered, device, on)
    bench.poke({ poke: 'cover', device, on })
  }
  function press(device: string, on: boolean): void {
    mark(pressed, device, on)
    bench.poke({ poke: 'press', device, on })
  }
  function dim(to: number): void {
    light.value = to
    bench.poke({ poke: 'dim', to })
  }
  function take(what: string): void {
    mark(away, what, true)
    bench.poke({ poke: 'take', what })
  }
  function giveBack(what: string): void {
    mark(away, what, false)
    bench.poke({ poke: 'return', what })
  }
  const carry = (forward: number, right: number): void => bench.poke({ poke: 'carry', forward, right })

  /** The newest row, or how things stand before the first; null before there is a run. */
  const rowNow = (): Float64Array | null => bench.tape?.find(bench.tape.rows - 1) ?? opened.value?.first ?? null
  function clap(): void {
    const row = rowNow()
    if (row === null || opened.value === null) return
    const { body } = opened.value.layout
    const yaw = yawAt(row, body + 3)
    bench.poke({ poke: 'clap', x: row[body]! + CLAP_AHEAD * Math.cos(yaw), y: row[body + 1]! + CLAP_AHEAD * Math.sin(yaw) })
  }
  /** Knocks what is in hand: a piece away from the robot, the robot from its left, or towards a heading with a speed. */
  function knock(what: string, how: { readonly speed: number, readonly heading: number } | null = null): void {
    const row = rowNow()
    if (row === null || opened.value === null) return
    const { body, pieces, pieceNames } = opened.value.layout
    const at = pieces + 7 * pieceNames.indexOf(what)
    const heading = what === ROBOT ? Math.PI / 2 - yawAt(row, body + 3) : -Math.atan2(row[at + 1]! - row[body + 1]!, row[at]! - row[body]!)
    bench.poke({ poke: 'knock', what, ...how ?? { speed: KNOCK, heading } })
  }

  return { inReach, before, covered, pressed, away, light, chosen, things, isAway, hold, cover, press, dim, take, giveBack, carry, clap, knock }
})
