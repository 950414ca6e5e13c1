import { readFileSync } from 'node:fs'
import { describe, expect, test } from 'vitest'
import { ALL_DEVICE_KINDS } from '../../../core/devices'
import { sectionOf } from '../../../app/shown/pages'

describe('pages that the interface shows', () => {
  const devices = readFileSync('docs/devices.md', 'utf8')
  test.each(ALL_DEVICE_KINDS.map(k => k.kind))('%s has one that says more than its name', (kind) => {
    expect(sectionOf(devices, kind)?.length).toBeGreaterThan(80)
  })
  test('each is the section of its own device, not of one that is mentioned', () => {
    expect(sectionOf(devices, 'sonar')).toContain('51 rays')
    expect(sectionOf(devices, 'sound')).not.toBe(sectionOf(devices, 'sonar'))
    expect(sectionOf(devices, 'light')).not.toBe(sectionOf(devices, 'gate'))
  })
  test('every message of the checker has one, by its code', () => {
    const checker = readFileSync('docs/checker.md', 'utf8')
    const codes = [...readFileSync('core/language/wording.ts', 'utf8').matchAll(/\bit\('([a-z-]+)'/g)].map(m => m[1]!)
    expect(codes.length).toBeGreaterThan(60)
    for (const code of codes) expect([code, sectionOf(checker, code) === null]).toEqual([code, false])
  })
  test('there is none of what there is no section of', () => { expect(sectionOf('## A\n\ntext\n', 'b')).toBeNull() })
})
