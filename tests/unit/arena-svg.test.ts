import fc from 'fast-check'
import { readdirSync } from 'node:fs'
import { describe, expect, test } from 'vitest'
import { arenaFromSvg, arenaToSvg, layOut, readArena, type Arena } from '../../core/arena'
import { demo } from './kit'

/** A drawing of 2 m by 1 m, a unit a millimetre. */
const svg = (body: string, attributes = 'width="2000mm" height="1000mm" viewBox="0 0 2000 1000"'): string => `<svg xmlns="http://www.w3.org/2000/svg" ${attributes}>${body}</svg>`
function read(text: string) {
  const from = arenaFromSvg(text)
  if (!from.ok) throw new Error(from.message)
  return from
}
/** The arena of a drawing, which must be one. */
function arenaOf(text: string, name = 'drawn'): Arena {
  const { size, items } = read(text)
  const result = readArena({ mindpath: 'arena', version: 1, name, size, start: { at: ['50 cm', '50 cm'] }, ...items })
  if (!result.ok) throw new Error(JSON.stringify(result.problems))
  return result.value
}

describe('an arena from a drawing', () => {
  test('takes size, places and turns true to scale, north up', () => {
    const { size, items, left } = read(svg('<rect x="100" y="200" width="400" height="100" fill="#f2d93d"/><circle cx="1500" cy="250" r="50" fill="red"/>'))
    expect(size).toEqual(['200 cm', '100 cm'])
    expect(items).toEqual({ patches: [
      { shape: 'box', at: ['30 cm', '75 cm'], size: ['40 cm', '10 cm'], color: 'yellow' }, { shape: 'disc', at: ['150 cm', '75 cm'], diameter: '10 cm', color: 'red' },
    ] })
    expect(left).toEqual([])
  })
  test.each([
    ['millimetres', 'width="400mm" height="200mm" viewBox="0 0 40 20"', ['40 cm', '20 cm']],
    ['inches', 'width="20in" height="10in" viewBox="0 0 40 20"', ['50.8 cm', '25.4 cm']],
    ['no unit: pixels', 'width="960" height="480" viewBox="0 0 40 20"', ['25.4 cm', '12.7 cm']],
    ['no view box', 'width="100cm" height="50cm"', ['100 cm', '50 cm']],
  ])('knows %s', (_what, attributes, size) => {
    const from = read(svg('', attributes))
    expect(from.size).toEqual(size)
    expect(from.left.length).toBe(/mm|in|cm/.test(attributes) ? 0 : 1)
  })
  test('by what is in a layer: walls, lines, pieces, areas, decks', () => {
    const { items, left } = read(svg(`
      <g id="walls" stroke="#777" stroke-width="30" fill="none"><path d="M100 100H600V400"/></g>
      <g id="L2" inkscape:label="Lines" xmlns:inkscape="http://www.inkscape.org/namespaces/inkscape"><polyline id="hawser" points="0,0 100,100 200,0" fill="none" stroke="blue" stroke-width="20"/></g>
      <g class="pieces"><rect id="crate" x="0" y="0" width="100" height="200" fill="orange"/><circle id="float_1" cx="500" cy="500" r="40" style="fill:green"/></g>
      <rect class="area" id="goal" x="1000" y="0" width="500" height="500" fill="none" stroke="green"/>
      <g data-name="Decks"><rect x="0" y="0" width="2000" height="1000"/></g>`))
    expect(left).toEqual([])
    expect(items['walls']).toEqual([
      { from: ['10 cm', '90 cm'], to: ['60 cm', '90 cm'], thickness: '3 cm', color: 'grey' }, { from: ['60 cm', '90 cm'], to: ['60 cm', '60 cm'], thickness: '3 cm', color: 'grey' },
    ])
    expect(items['lines']).toEqual([{ name: 'hawser', points: [['0 cm', '100 cm'], ['10 cm', '90 cm'], ['20 cm', '100 cm']], width: '2 cm', color: 'blue' }])
    expect(items['pieces']).toEqual([
      { name: 'crate', kind: 'crate', at: ['5 cm', '90 cm'], height: '10 cm', color: 'orange', shape: 'box', length: '10 cm', width: '20 cm' },
      { name: 'float_1', kind: 'float', at: ['50 cm', '50 cm'], height: '10 cm', color: 'green', shape: 'cylinder', diameter: '8 cm' },
    ])
    expect(items['areas']).toEqual([{ name: 'goal', at: ['125 cm', '75 cm'], size: ['50 cm', '50 cm'] }])
    expect(items['decks']).toEqual([{ at: ['100 cm', '50 cm'], size: ['200 cm', '100 cm'] }])
  })
  test('without a layer by colour: grey strokes are walls, others lines, what is filled paint', () => {
    const { items } = read(svg('<line x1="0" y1="0" x2="100" y2="0" stroke="#787878" stroke-width="40"/><line x1="0" y1="0" x2="100" y2="0" stroke="black" stroke-width="20"/><rect width="100" height="100" fill="white"/>'))
    expect(Object.fromEntries(Object.entries(items).map(([k, v]) => [k, v.length]))).toEqual({ walls: 1, lines: 1, patches: 1 })
  })
  test('only whole words say what is in a layer', () => {
    const { items } = read(svg('<g id="floorplan"><rect id="outline" width="100" height="100" fill="red"/></g><g id="Walls 2"><line x1="0" y1="0" x2="100" y2="0" stroke="black" stroke-width="20"/></g>'))
    expect(Object.keys(items)).toEqual(['patches', 'walls'])
  })
  test('transforms of groups nest, turn and grow what is in them, strokes too; classes of a style sheet count', () => {
    const { items } = read(svg(`<style>.w { stroke: #777; stroke-width: 10px; fill: none }</style>
      <g transform="translate(1000 500)"><g transform="scale(2)"><g transform="rotate(90)"><line class="w" x1="0" y1="0" x2="100" y2="0"/></g></g>
      <rect x="-50" y="-100" width="100" height="200" transform="rotate(30)" fill="red"/></g>`))
    expect(items['walls']).toEqual([{ from: ['100 cm', '50 cm'], to: ['100 cm', '30 cm'], thickness: '2 cm', color: 'grey' }])
    expect(items['patches']).toEqual([{ shape: 'box', at: ['100 cm', '50 cm'], size: ['10 cm', '20 cm'], turn: '30 deg', color: 'red' }])
  })
  test('curves become lines that stray by millimetres at most', () => {
    const { items } = read(svg('<path d="M100 500A400 400 0 0 1 900 500" fill="none" stroke="black" stroke-width="20"/>'))
    const [{ points }] = items['lines'] as [{ points: [string, string][] }]
    for (const [x, y] of points) expect(Math.abs(Math.hypot(parseFloat(x) - 50, parseFloat(y) - 50) - 40)).toBeLessThan(0.3)
    expect(points.length).toBeGreaterThan(8)
    expect(points.length).toBeLessThan(40)
  })
  test('what is not understood is listed with its place', () => {
    const { items, left } = read(svg('<text x="1" y="2">quay</text>\n<polygon points="0,0 100,0 50,80" fill="red"/>\n<rect width="twelve" height="3"/>\n<path d="M0 0 nonsense" stroke="black"/>\n<image href="x.png"/>\n<g display="none"><text>no</text></g>\n<rect id="wall" width="10" height="10" fill="none"/>'))
    expect(items).toEqual({})
    expect(left.map(l => l.replace(/:.*/, ''))).toEqual(['text in line 1', 'rect in line 3', 'path in line 4', 'image in line 5', 'polygon in line 2', 'rect in line 7'])
    expect(left.join()).toContain('it is neither a box nor a disc, as patches are')
  })
  test.each(['', 'no drawing', '<html></html>', '<svg><g></svg>', '<!DOCTYPE svg [<!ENTITY a "b">]><svg>&a;</svg>', `<svg>${'<g>'.repeat(6000)}`])('what is no drawing is told as such: %#', (text) => {
    expect(arenaFromSvg(text)).toMatchObject({ ok: false, message: expect.stringMatching(/drawing/) as string })
  })
  const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
  test('any box, however it is turned, grown and moved, is found again', () => {
    fc.assert(fc.property(number(100, 400), number(100, 400), number(-180, 180), number(0.5, 2), number(500, 1500), number(300, 700), fc.boolean(), (w, h, turn, grows, x, y, asPath) => {
      const shape = asPath ? `<path d="M${-w / 2} ${-h / 2}h${w}v${h}h${-w}Z"` : `<rect x="${-w / 2}" y="${-h / 2}" width="${w}" height="${h}"`
      const { items } = read(svg(`<g transform="translate(${x} ${y}) rotate(${turn}) scale(${grows})">${shape} fill="red"/></g>`))
      const [found] = items['patches'] as [{ at: string[], size: string[], turn?: string }]
      expect(found.at.map(parseFloat)).toEqual([expect.closeTo(x / 10, 0), expect.closeTo(100 - y / 10, 0)])
      // A quarter of a turn more with length and width changed is the same box.
      const quarters = (turn - parseFloat(found.turn ?? '0')) / 90
      expect(quarters).toBeCloseTo(Math.round(quarters), 2)
      const [a, b] = Math.round(quarters) % 2 === 0 ? [w, h] : [h, w]
      expect(found.size.map(parseFloat)).toEqual([expect.closeTo(a * grows / 10, 0), expect.closeTo(b * grows / 10, 0)])
    }), { numRuns: 200 })
  })
  test('never throws, whatever is in it', () => {
    const tag = fc.constantFrom('rect', 'path', 'circle', 'g', 'use', 'polyline', 'line', 'ellipse', 'style', 'svg')
    const value = fc.oneof(fc.string(), fc.constantFrom('1e999', '-3', 'NaN', '10mm', 'M0 0A1 1 0 1 1 2 2Z', 'M0 0C1 1 2 2', 'rotate(90)', 'matrix(0 0 0 0 0 0)', 'none', '#777', '0,0 1,1'))
    const name = fc.constantFrom('x', 'y', 'width', 'height', 'r', 'rx', 'd', 'points', 'transform', 'fill', 'stroke', 'style', 'class', 'id', 'viewBox', 'stroke-width')
    const escape = (text: string): string => text.replaceAll(/[&<"]/g, '_')
    const element = fc.tuple(tag, fc.array(fc.tuple(name, value), { maxLength: 5 })).map(([t, all]) => `<${t} ${[...new Map(all)].map(([n, v]) => `${n}="${escape(v)}"`).join(' ')}/>`)
    fc.assert(fc.property(fc.array(element, { maxLength: 6 }), fc.array(fc.tuple(name, value), { maxLength: 4 }), (elements, attributes) => {
      const from = arenaFromSvg(svg(elements.join(''), [...new Map(attributes)].map(([n, v]) => `${n}="${escape(v)}"`).join(' ')))
      if (from.ok) expect(JSON.stringify(from.items)).not.toMatch(/NaN|Infinity|null/)
    }), { numRuns: 400 })
  })
})

describe('an arena as a drawing', () => {
  test.each(readdirSync('demo/arenas'))('%s comes back from it as it was, as far as a drawing goes', (file) => {
    const before = readArena(demo(`arenas/${file}`))
    if (!before.ok) throw new Error('unreadable')
    const layout = layOut(before.value, 3)
    const after = arenaOf(arenaToSvg(before.value, layout), before.value.name)
    // Documents are to the millimetre.
    const near = (value: unknown): unknown => typeof value === 'number' ? expect.closeTo(value, 2) : Array.isArray(value) ? value.map(near)
      : typeof value === 'object' && value !== null ? Object.fromEntries(Object.entries(value).map(([k, v]) => [k, near(v)])) : value
    expect(after.size).toEqual(near(before.value.size))
    expect(after.lines).toEqual(near(before.value.lines))
    expect(after.patches.slice(0, before.value.patches.length)).toEqual(near(before.value.patches))
    const standing = ({ from, to, thickness, color }: Arena['walls'][number]) => ({ from, to, thickness, color })
    expect(after.walls.map(standing)).toEqual(near(layout.arena.walls.map(standing)))
    const drawn = layout.pieces.filter(p => p.fed === null && p.up === 0)
    expect(after.pieces.map(p => ({ at: p.at, color: p.color }))).toEqual(near(drawn.map(p => ({ at: p.at, color: p.color }))))
  })
})
