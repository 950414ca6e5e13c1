import type { Ref } from 'vue'
import { ROBOT } from '~~/core/simulation'
import { useBenchStore } from '~/features/bench/bench'
import { useHandsStore } from '~/features/bench/hands'
import { HAND, type Picture } from './picture'
import type { Point } from './plan-view'

/** How long a knock's drag is said to take, seconds, and the hardest, metres a second. */
const KNOCK_TIME = 0.2
const HARDEST = 4

/** What a picture is handled by. */
export interface Handled {
  readonly place: Readonly<Ref<HTMLElement | null>>
  picture(this: void): Picture | null
  /** Whether it is seen from above, not in three dimensions. */
  above(this: void): boolean
  /** Whether dragging lays a ruler. */
  readonly ruling: Readonly<Ref<boolean>>
  /** Draws anew. */
  now(this: void): void
}

/** Pointer, fingers and wheel on the picture of the arena: hands on what stands there, the ruler, moving, turning and zooming it. */
export function usePointer({ place, picture, above, ruling, now }: Handled) {
  const bench = useBenchStore()
  const hands = useHandsStore()
  /** What a hand has hold of: dragging puts it elsewhere, with shift it turns towards the pointer. */
  let grabbed: string | null = null
  /** Where the pointer was last, page pixels: fingers have no movement of their own. */
  let last: Point = { x: 0, y: 0 }
  /** Where a knock was begun, page pixels; null while none is. */
  let knocking: Point | null = null
  /** Where the ruler was begun, page pixels. */
  let from: Point | null = null
  function pointOf(event: MouseEvent): Point {
    const box = place.value!.getBoundingClientRect()
    return { x: event.clientX - box.left, y: event.clientY - box.top }
  }
  /** Fingers on the picture, by their pointers. */
  const fingers = new Map<number, Point>()
  /** How far two fingers are apart and where between them the middle is. */
  function spread(): { readonly apart: number, readonly middle: Point } | null {
    const [a, b] = [...fingers.values()]
    return a === undefined || b === undefined ? null : { apart: Math.hypot(a.x - b.x, a.y - b.y), middle: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } }
  }
  function grab(event: PointerEvent): void {
    const { x, y } = pointOf(event)
    last = { x, y }
    if (event.pointerType === 'touch') fingers.set(event.pointerId, { x, y })
    if (fingers.size > 1) { grabbed = null; from = null; return }
    if (ruling.value) from = { x, y }
    else grabbed = event.button === 0 ? picture()?.pick(x, y)?.what ?? null : null
    if (grabbed !== null && hands.things.includes(grabbed)) {
      hands.chosen = grabbed
      if (event.ctrlKey) knocking = { x, y }
    }
    if (event.button === 0) (event.currentTarget as Element).setPointerCapture(event.pointerId)
  }
  function letGo(event: PointerEvent): void {
    fingers.delete(event.pointerId)
    if (knocking !== null && grabbed !== null && event.type === 'pointerup') blow(grabbed, knocking, pointOf(event))
    grabbed = null
    from = null
    if (knocking !== null && !ruling.value) picture()?.measure(null)
    knocking = null
  }
  /** Knocks something the way that one dragged: so fast as one drags in so long. */
  function blow(what: string, begun: Point, ended: Point): void {
    const [a, b] = [picture()?.pick(begun.x, begun.y), picture()?.pick(ended.x, ended.y)]
    if (a == null || b == null) return
    const far = Math.hypot(b.x - a.x, b.y - a.y)
    hands.knock(what, far < 0.01 ? null : { speed: Math.min(HARDEST, far / KNOCK_TIME), heading: -Math.atan2(b.y - a.y, b.x - a.x) })
  }
  function drag(event: PointerEvent): void {
    if (event.buttons === 0) return
    const { x, y } = pointOf(event)
    if (fingers.size > 1 && fingers.has(event.pointerId)) {
      // Two fingers zoom about the middle between them, and move the picture with it.
      const before = spread()!
      fingers.set(event.pointerId, { x, y })
      const after = spread()!
      picture()?.pan(after.middle.x - before.middle.x, after.middle.y - before.middle.y)
      if (after.apart > 10) picture()?.zoom(before.apart / after.apart, after.middle.x, after.middle.y)
      now()
      return
    }
    if (from !== null) {
      picture()?.measure([from, { x, y }])
      now()
      return
    }
    if (knocking !== null) {
      picture()?.measure([knocking, { x, y }])
      now()
      return
    }
    if (grabbed?.startsWith(HAND) === true) {
      const far = picture()?.alongHand(grabbed.slice(HAND.length), x, y)
      if (far != null) hands.hold(grabbed.slice(HAND.length), far)
      return
    }
    if (grabbed !== null) {
      const at = picture()?.pick(x, y)
      const { row, opened } = bench
      if (at == null || row === null || opened === null) return
      if (event.shiftKey && grabbed === ROBOT) {
        const { body } = opened.layout
        const heading = -Math.atan2(at.y - row[body + 1]!, at.x - row[body]!)
        bench.poke({ poke: 'put', what: grabbed, x: row[body]!, y: row[body + 1]!, heading })
      } else bench.poke({ poke: 'put', what: grabbed, x: at.x, y: at.y, heading: null })
      return
    }
    // Above, dragging moves the picture and with Ctrl, or the other button, turns it; in three dimensions it is the other way round.
    const [dx, dy] = [x - last.x, y - last.y]
    last = { x, y }
    if ((above()) === (!event.ctrlKey && event.buttons === 1)) picture()?.pan(dx, dy)
    else picture()?.turnEye(-dx * 0.006, dy * 0.005)
    now()
  }
  function wheel(event: WheelEvent): void {
    const { x, y } = pointOf(event)
    picture()?.zoom(event.deltaY > 0 ? 1.08 : 1 / 1.08, x, y)
    now()
  }

  return { grab, drag, letGo, wheel }
}
