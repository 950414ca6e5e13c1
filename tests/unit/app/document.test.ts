import { beforeEach, describe, expect, test, vi } from 'vitest'
import type { Read } from '../../../core/document'

/** A document of the project while it is being written: undo, what is wrong with it, what goes on over a change of view. */

interface Doc { name?: string, size?: number }

/** The project as the draft sees it. */
const project = {
  data: null as { id: string, robot: unknown } | null,
  building: {} as Record<string, unknown>,
  edited: [] as unknown[],
  editDocument(part: 'robot', document: unknown): void { this.edited.push(document); this.data = { ...this.data!, [part]: document } },
  keepBuilding(part: string, document: unknown): void { this.building = { ...this.building, [part]: document } },
}
vi.mock('../../../app/draft/project', () => ({ useProjectStore: () => project }))
const { documentDraft } = await import('../../../app/draft/document')

/** Can exist with a size above 0; is shown where its name is a text. */
const read = (value: unknown): Read<Doc> => {
  const { size } = value as Doc
  return size !== undefined && size > 0 ? { ok: true, value: value as Doc } : { ok: false, problems: [{ path: 'size', value: String(size), message: 'allowed is above 0' }] }
}
const shape = (value: unknown): string | null => typeof (value as Doc).name === 'string' ? null : 'name: expected a text'
const draftOf = () => documentDraft<Doc, Doc>('robot', read, shape)

beforeEach(() => {
  project.data = { id: 'p', robot: { name: 'limpet', size: 1 } }
  project.building = {}
  project.edited = []
})

describe('a document being written', () => {
  test('is the project’s, and goes there with every change that can exist', () => {
    const d = draftOf()
    expect(d.load()).toBe(true)
    d.change('size', (doc) => { doc.size = 2 })
    expect([d.draft.value, project.edited, d.problems.value]).toEqual([{ name: 'limpet', size: 2 }, [{ name: 'limpet', size: 2 }], []])
  })
  test('is undone and redone step by step; changes of one name in a row are one step', () => {
    const d = draftOf()
    d.load()
    for (const size of [2, 3, 4]) d.change('size', (doc) => { doc.size = size })
    d.change('name', (doc) => { doc.name = 'winkle' })
    expect(d.depth.value).toEqual({ past: 2, future: 0 })
    d.undo()
    expect(d.draft.value).toEqual({ name: 'limpet', size: 4 })
    d.undo()
    expect([d.draft.value, d.depth.value]).toEqual([{ name: 'limpet', size: 1 }, { past: 0, future: 2 }])
    d.redo()
    expect(d.draft.value).toEqual({ name: 'limpet', size: 4 })
    // What comes after an undo is a step of its own, and takes the place of what was undone.
    d.change('size', (doc) => { doc.size = 9 })
    expect(d.depth.value).toEqual({ past: 2, future: 0 })
  })
  test('that changes nothing is no step', () => {
    const d = draftOf()
    d.load()
    d.change('', (doc) => { doc.size = 1 })
    expect([d.depth.value.past, project.edited]).toEqual([0, []])
  })
  test('that cannot exist says where, stays in the browser alone, and leaves the last good one in the project', () => {
    const d = draftOf()
    d.load()
    d.change('', (doc) => { doc.size = -1 })
    expect([d.problems.value.map(p => p.path), project.building['robot'], d.value.value, project.edited]).toEqual([['size'], { name: 'limpet', size: -1 }, { name: 'limpet', size: 1 }, []])
  })
  test('goes on with its undo when its view is come back to; another project’s begins anew', () => {
    const d = draftOf()
    d.load()
    d.change('', (doc) => { doc.size = 2 })
    expect([d.load(), d.depth.value.past]).toEqual([false, 1])
    project.data = { id: 'q', robot: { name: 'heron', size: 5 } }
    expect([d.load(), d.depth.value.past, d.draft.value]).toEqual([true, 0, { name: 'heron', size: 5 }])
  })
  test('that was left half built is taken up, where it can be shown', () => {
    project.building = { robot: { name: 'half', size: -2 } }
    const d = draftOf()
    d.load()
    expect([d.draft.value, d.problems.value.length]).toEqual([{ name: 'half', size: -2 }, 1])
    project.building = { robot: { size: 3 } }
    const other = draftOf()
    other.load()
    expect(other.draft.value).toEqual({ name: 'limpet', size: 1 })
  })
  test('is replaced whole, which undo takes back; what cannot be shown is refused and says why', () => {
    const d = draftOf()
    d.load()
    expect(d.replace({ size: 7 })).toBe('name: expected a text')
    expect(d.draft.value).toEqual({ name: 'limpet', size: 1 })
    expect(d.replace({ name: 'cuttle', size: 7 })).toBeNull()
    expect(d.draft.value).toEqual({ name: 'cuttle', size: 7 })
    d.undo()
    expect(d.draft.value).toEqual({ name: 'limpet', size: 1 })
  })
  test('shares nothing with the project: what is written later changes no document of before', () => {
    const d = draftOf()
    d.load()
    d.change('', (doc) => { doc.size = 2 })
    d.change('', (doc) => { doc.size = 3 })
    expect(project.edited).toEqual([{ name: 'limpet', size: 2 }, { name: 'limpet', size: 3 }])
  })
})
