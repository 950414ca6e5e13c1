import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { array, number, object, string } from 'yup'
import { DEVICE_KINDS } from '~~/core/devices'
import { floorViews, framesOf, lookBudget, readRobot, selfViews, type Robot } from '~~/core/robot'
import { documentDraft, misshapen, plain } from '~/draft/document'

/** A robot document as it is being written: any JSON. */
export type Draft = Record<string, unknown> & { devices?: DraftDevice[], controller?: { looks?: string, ports?: Record<string, unknown> }, gestures?: DraftGesture[] }
export interface DraftDevice { name: string, kind: string, port?: string, mount?: Record<string, unknown>, settings?: Record<string, unknown> }
export interface DraftGesture { name: string, poses: { after: string, joints: Record<string, string> }[] }

/**
 * The robot being built. The draft may be wrong for a while: then it says what is, and the last robot
 * that could exist stays in the project.
 */
export const useRobotStore = defineStore('robot', () => {
  const document = documentDraft<Draft, Robot>('robot', readRobot, value => misshapen(shapeSchema, value))
  const { draft, problems, value: robot, depth, change, undo, redo } = document
  const selected = ref<string | null>(null)
  /** Joint places by name, SI, as they are posed by hand; nothing of it is in the document. */
  const pose = shallowRef<Readonly<Record<string, number>>>({})

  /** Takes up the project's robot; what was built before, with its undo, goes on where nobody else changed it. */
  function load(): void {
    if (!document.load()) return
    selected.value = draft.value.devices?.[0]?.name ?? null
    pose.value = {}
  }

  const device = computed(() => draft.value.devices?.find(d => d.name === selected.value) ?? null)
  const index = computed(() => draft.value.devices?.findIndex(d => d.name === selected.value) ?? -1)

  function changeDevice(what: string, act: (device: DraftDevice) => void): void {
    const at = index.value
    if (at === -1) return
    change(`${what} ${String(at)}`, (d) => { act(d.devices![at]!) })
  }

  /** Puts a device of a kind on the first port that takes it and is free. */
  function add(kind: string): void {
    const found = DEVICE_KINDS.find(k => k.kind === kind)
    if (found === undefined) return
    const name = freeName(kind)
    change('', (d) => { (d.devices ??= []).push({ name, kind, ...portFor(found.port), mount: { forward: '0 cm', right: '0 cm', up: '8 cm' } }) })
    selected.value = name
  }

  function duplicate(): void {
    const { value } = device
    if (value === null) return
    const name = freeName(value.name.replace(/_\d+$/, ''))
    const port = portFor(DEVICE_KINDS.find(k => k.kind === value.kind)?.port ?? null, value.port)
    change('', (d) => { d.devices!.splice(index.value + 1, 0, { ...plain(value) as DraftDevice, name, ...port }) })
    selected.value = name
  }

  function remove(): void {
    const at = index.value
    if (at === -1) return
    change('', (d) => { d.devices!.splice(at, 1) })
    selected.value = draft.value.devices?.[Math.max(0, at - 1)]?.name ?? null
  }

  function freeName(base: string): string {
    const names = new Set(draft.value.devices?.map(d => d.name))
    if (!names.has(base)) return base
    for (let n = 2; ; n++) if (!names.has(`${base}_${n}`)) return `${base}_${n}`
  }

  /** The port of a new device; what has no wire has none. */
  function portFor(kind: string | null, otherwise = ''): { port?: string } { return kind === null ? {} : { port: freePort(kind) ?? otherwise } }

  function freePort(kind: string): string | null {
    const taken = new Set([...draft.value.devices?.map(d => d.port) ?? [], ...(draft.value['drive'] as { ports?: string[] } | undefined)?.ports ?? []])
    for (const [name, takes] of Object.entries(draft.value.controller?.ports ?? {})) {
      if (!taken.has(name) && (takes === kind || (Array.isArray(takes) && takes.includes(kind)))) return name
    }
    return null
  }

  /** Takes a whole document, which undo takes back. null when it was taken; else why it cannot even be shown. */
  function replace(value: unknown): string | null {
    const wrong = document.replace(value)
    if (wrong === null) selected.value = draft.value.devices?.[0]?.name ?? null
    return wrong
  }

  const frames = computed(() => robot.value === null ? [] : framesOf(robot.value))
  /** Joint values in the order of the frames: as posed, else as a run begins. */
  const values = computed(() => frames.value.map(f => pose.value[f.name] ?? f.link.start))
  /** The range of a joint, SI. */
  function rangeOf(joint: string): readonly [number, number] {
    const { from, to } = robot.value!.devices.find(d => d.name === joint)!.parameters as { from: number, to: number }
    return [from, to]
  }
  const budget = computed(() => robot.value === null ? [] : lookBudget(robot.value))
  const floorSeen = computed(() => robot.value === null ? [] : floorViews(robot.value))
  const selfSeen = computed(() => robot.value === null ? [] : selfViews(robot.value))

  return {
    draft, problems, robot, selected, pose, device, index, frames, values, rangeOf, budget, selfSeen, floorSeen, depth,
    load, change, changeDevice, undo, redo, add, duplicate, remove, replace,
  }
})

/** The least that a draft must be for the view to show it; its fields may still be wrong. */
const shapeSchema = object({
  name: string(),
  chassis: object(),
  drive: object().default(undefined),
  controller: object({ ports: object() }),
  devices: array(object({ name: string().required(), kind: string().required(), port: string(), mount: object(), settings: object() }).required()),
  colors: array(object().required()),
  gestures: array(object({ name: string(), poses: array(object({ joints: object() }).required()) }).required()),
  clips: array(object({ name: string(), wav: string() }).required()),
  pictures: array(object({ name: string(), size: array(number().required()), dots: string() }).required()),
}).required()
