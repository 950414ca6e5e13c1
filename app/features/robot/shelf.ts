import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { BARE_ARM, BARE_ROVER } from '~~/core/robot'
import { api, type Answer, type ListedRobots } from '~/utils/api'

/** The robots that a project may take: bare ones, those that were kept, and those of other projects. */
export const useShelfStore = defineStore('shelf', () => {
  const robots = shallowRef<ListedRobots>({ kept: [], used: [] })
  const trouble = ref<string | null>(null)
  /** The one put away last, for undo. */
  const deleted = shallowRef<{ readonly id: string, readonly name: string } | null>(null)

  async function load(): Promise<void> {
    const answer = await api.robots()
    trouble.value = answer.ok ? null : answer.message
    if (answer.ok) robots.value = answer.value
  }

  async function after(answer: Answer<unknown>): Promise<boolean> {
    if (answer.ok) await load()
    else trouble.value = answer.message
    return answer.ok
  }

  /** A robot by its document's id; null when it cannot be had. */
  async function fetch(document: string): Promise<unknown> {
    const answer = await api.document(document)
    trouble.value = answer.ok ? null : answer.message
    return answer.ok ? answer.value.document : null
  }

  /** Keeps a copy of a robot that can exist. */
  async function keep(robot: unknown): Promise<void> { await after(await api.keepRobot(robot)) }

  async function remove(id: string): Promise<void> {
    const found = robots.value.kept.find(k => k.id === id)
    if (found !== undefined && await after(await api.removeRobot(id))) deleted.value = { id, name: robotName(found.robot) }
  }

  async function undo(): Promise<void> {
    if (deleted.value !== null && await after(await api.restoreRobot(deleted.value.id))) deleted.value = null
  }

  return { robots, trouble, deleted, load, fetch, keep, remove, undo }
})

export const BARE_ROBOTS: readonly { readonly label: string, readonly robot: object }[] = [{ label: 'a bare rover', robot: BARE_ROVER }, { label: 'a bare arm', robot: BARE_ARM }]

/** A robot document's name. */
export function robotName(robot: unknown): string {
  return typeof robot === 'object' && robot !== null && 'name' in robot ? String(robot.name) : 'robot'
}

/** A copy whose name no other kept robot has: limpet_2. */
export function renamedCopy(robot: unknown, taken: ReadonlySet<string>): unknown {
  const base = robotName(robot).replace(/_\d+$/, '')
  let name = base
  for (let n = 2; taken.has(name); n++) name = `${base}_${n}`
  return { ...robot as object, name }
}
