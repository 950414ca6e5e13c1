import type { Robot, Wiring } from '../robot'
import type { Board } from './board'
import { wiredPorts, type WiredPort } from './wires'

/** Dots of the drawing. */
const PITCH = 24
const BOARD = 190
const CHANNEL = 150
const BOX = 270
const ROW = 20
const HEAD = 40
const GAP = 14
const MARGIN = 20
const TITLE = 56
/** Wires are told apart by what stands at their ends; colours help to follow them. Okabe and Ito's palette (2008), which colour-blind people tell apart. */
const INKS = ['#0072b2', '#d55e00', '#009e73', '#cc79a7', '#a67c00', '#56b4e9'] as const

/** How each part looks, as attributes: a style sheet within would be refused by a page that trusts none. */
const LOOKS = {
  'board': 'fill="#eef2f0" stroke="#33413d" stroke-width="1.5"',
  'box': 'fill="#fff" stroke="#33413d"',
  'pin': 'fill="#fff" stroke="#33413d"', 'used pin': 'fill="#33413d" stroke="#33413d"',
  'wire': 'fill="none" stroke-width="2"',
  'line': 'fill="#1c2623"',
  'name': 'fill="#1c2623" font-weight="700"',
  'small': 'fill="#4b5a55" font-size="11"',
  'pin name': 'fill="#1c2623" font-size="12"', 'free pin name': 'fill="#6b7671" font-size="12"',
  // Above the wires that it crosses.
  'tag': 'fill="#1c2623" font-size="12" paint-order="stroke" stroke="#fff" stroke-width="4"',
} as const
type Look = keyof typeof LOOKS

interface Placed { readonly of: WiredPort, readonly side: 'left' | 'right', readonly y: number }

const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;')
const heightOf = ({ wires }: WiredPort): number => HEAD + ROW * (wires.length + 1)

/** A plan to build from: the board with its pins, what is connected, and every wire; an SVG document of its own, in dots, to be printed on white. */
export function wiringPlan(robot: Robot, board: Board, wiring: Wiring): string {
  const sides = { left: board.pins.filter(p => p.side === 'left'), right: board.pins.filter(p => p.side === 'right') }
  const tall = PITCH * Math.max(sides.left.length, sides.right.length)
  const pinY = new Map([...sides.left, ...sides.right].map(p => [p.name, PITCH * ((p.side === 'left' ? sides.left : sides.right).indexOf(p) + 0.5)]))
  const sideOf = new Map(board.pins.map(p => [p.name, p.side]))
  const ports = wiredPorts(robot, board, wiring).filter(p => p.by !== null)
  const sided = besideTheirPins(ports, pinY, sideOf)
  const columnHeight = (column: readonly Beside[]): number => column.reduce((sum, { of }) => sum + heightOf(of) + GAP, -GAP)
  const high = Math.max(tall, columnHeight(sided.left), columnHeight(sided.right))
  const shift = (high - tall) / 2
  const columns = [...stacked(sided.left, 'left', shift, high), ...stacked(sided.right, 'right', shift, high)]
  const x = { left: MARGIN + BOX, boardLeft: MARGIN + BOX + CHANNEL, boardRight: MARGIN + BOX + CHANNEL + BOARD, right: MARGIN + BOX + 2 * CHANNEL + BOARD }
  const [width, height] = [2 * (MARGIN + BOX + CHANNEL) + BOARD, high + TITLE + 2 * MARGIN]
  const out: string[] = []
  /** What stands above all wires. */
  const tags: string[] = []
  const text = (at: readonly [number, number], words: string, look: Look, anchor: 'start' | 'middle' | 'end' = 'start'): void => { (look === 'tag' ? tags : out).push(`<text x="${at[0].toFixed(1)}" y="${at[1].toFixed(1)}" text-anchor="${anchor}" ${LOOKS[look]}>${escaped(words)}</text>`) }

  out.push(`<rect ${LOOKS.board} x="${x.boardLeft}" y="${shift - 10}" width="${BOARD}" height="${tall + 20}" rx="10"/>`)
  const used = new Set(ports.flatMap(p => p.wires.map(w => w.pin)))
  for (const pin of board.pins) {
    const [at, y] = [pin.side === 'left' ? x.boardLeft : x.boardRight, shift + pinY.get(pin.name)!]
    out.push(`<circle ${LOOKS[used.has(pin.name) ? 'used pin' : 'pin']} cx="${at}" cy="${y}" r="4"/>`)
    text([pin.side === 'left' ? at + 10 : at - 10, y + 4], pin.name, used.has(pin.name) ? 'pin name' : 'free pin name', pin.side === 'left' ? 'start' : 'end')
  }
  let wire = 0
  for (const { of, side, y } of columns) {
    const [edge, start] = side === 'left' ? [x.left, MARGIN] : [x.right, x.right]
    out.push(`<rect ${LOOKS.box} data-box="${escaped(of.fitted.port)}" x="${start}" y="${y}" width="${BOX}" height="${heightOf(of)}" rx="6"/>`)
    text([start + 12, y + 18], of.fitted.name, 'name')
    text([start + BOX - 12, y + 18], `port ${of.fitted.port}`, 'small', 'end')
    text([start + 12, y + 33], `${of.fitted.title}, by ${of.by!.name}`, 'small')
    of.wires.forEach(({ line, pin, note }, i) => {
      const row = y + HEAD + ROW * (i + 0.5)
      text([side === 'left' ? start + BOX - 12 : start + 12, row + 4], note === '' ? line : `${line} (${note})`, 'line', side === 'left' ? 'end' : 'start')
      const [ink, way] = [INKS[wire++ % INKS.length]!, side === 'left' ? 1 : -1]
      out.push(`<circle cx="${edge}" cy="${row}" r="3" fill="${ink}"/>`)
      if (sideOf.get(pin) === side) {
        const [to, end] = [side === 'left' ? x.boardLeft : x.boardRight, shift + pinY.get(pin)!]
        out.push(`<path ${LOOKS.wire} stroke="${ink}" d="M${edge} ${row.toFixed(1)}C${edge + way * CHANNEL / 2} ${row.toFixed(1)} ${to - way * CHANNEL / 2} ${end.toFixed(1)} ${to} ${end.toFixed(1)}"/>`)
      } else {
        // Its pin is on the other side: the wire's name says where it goes.
        out.push(`<path ${LOOKS.wire} stroke="${ink}" d="M${edge} ${row}h${way * 20}"/>`)
        text([edge + way * 26, row + 4], pin === '–' ? 'no pin yet' : `to ${pin}`, 'tag', side === 'left' ? 'start' : 'end')
        const there = sideOf.get(pin)
        if (there === undefined) return
        const [at, back, end] = [there === 'left' ? x.boardLeft : x.boardRight, there === 'left' ? -1 : 1, shift + pinY.get(pin)!]
        out.push(`<path ${LOOKS.wire} stroke="${ink}" d="M${at} ${end}h${back * 16}"/>`)
        text([at + back * 22, end + 4], `${of.fitted.name} ${line}`, 'tag', there === 'left' ? 'end' : 'start')
      }
    })
    text([side === 'left' ? start + BOX - 12 : start + 12, y + HEAD + ROW * (of.wires.length + 0.5) + 4], ['ground', ...of.fed.board ? [`${board.volts} V of the board`] : [], ...of.fed.battery ? ['battery'] : []].join(', '), 'small', side === 'left' ? 'end' : 'start')
  }
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" font-family="'Atkinson Hyperlegible Next', 'Liberation Sans', sans-serif" font-size="13">
<title>${escaped(`Wiring of ${robot.name} to ${board.name}`)}</title>
<rect width="${width}" height="${height}" fill="#fff"/>
<text x="${MARGIN}" y="30" ${LOOKS.name} font-size="17">${escaped(`${robot.name} on ${board.name} (${board.chip}, ${board.volts} V)`)}</text>
<text x="${MARGIN}" y="48" ${LOOKS.small}>${escaped(`All grounds are connected, the battery’s too.${ports.some(p => p.wires.some(w => w.note.startsWith('divider'))) ? ' Of a divider the first resistor is between line and pin, the second between pin and ground.' : ''}`)}</text>
<g transform="translate(0 ${TITLE + MARGIN})">
${[...out, ...tags].join('\n')}
</g>
</svg>
`
}

/** A port beside the board, and where its pins are, in the mean. */
interface Beside { readonly of: WiredPort, readonly mean: number }

/** Each port on the side of most of its pins, in their order, so that wires cross little. */
function besideTheirPins(ports: readonly WiredPort[], pinY: ReadonlyMap<string, number>, sideOf: ReadonlyMap<string, 'left' | 'right'>): { readonly left: readonly Beside[], readonly right: readonly Beside[] } {
  const all = ports.map((of) => {
    const at = of.wires.flatMap(w => sideOf.has(w.pin) ? [{ side: sideOf.get(w.pin)!, y: pinY.get(w.pin)! }] : [])
    const side: 'left' | 'right' = at.filter(a => a.side === 'left').length * 2 > at.length ? 'left' : 'right'
    const there = at.filter(a => a.side === side)
    return { of, side, mean: there.reduce((sum, a) => sum + a.y, 0) / Math.max(1, there.length) }
  }).sort((a, b) => a.mean - b.mean)
  return { left: all.filter(a => a.side === 'left'), right: all.filter(a => a.side === 'right') }
}

/** A column of boxes, as near to their pins as its height leaves. */
function stacked(column: readonly Beside[], side: 'left' | 'right', shift: number, high: number): readonly Placed[] {
  let y = 0
  const boxes = column.map(({ of, mean }) => {
    const box = { of, side, y, off: shift + mean - y - heightOf(of) / 2 }
    y += heightOf(of) + GAP
    return box
  })
  const down = Math.min(Math.max(0, boxes.reduce((sum, b) => sum + b.off, 0) / Math.max(1, boxes.length)), Math.max(0, high - (y - GAP)))
  return boxes.map(({ of, y: top }) => ({ of, side, y: top + down }))
}
