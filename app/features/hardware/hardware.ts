import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { reachable } from '~~/core/firmata'
import { BOARDS, boardsFor, checkWiring, connectedBy, fittedOn, ownBoard, readOwnBoard, suggestWiring, unbuildable, wiringOn, wiringPlan, type Board, type Fitted } from '~~/core/hardware'
import { factsOf, type PortWiring, type Wiring } from '~~/core/robot'
import { plain } from '~/draft/document'
import { useRobotStore } from '~/features/robot/robot'

/** How the project's robot is connected to a board: as its document says, or as would do where it says nothing of that board. */
export const useHardwareStore = defineStore('hardware', () => {
  const robots = useRobotStore()
  const chosen = ref<string | null>(null)
  /** Ours, and that which the robot brings with it. */
  const boards = computed(() => robots.robot === null ? BOARDS : boardsFor(robots.robot))
  const brought = computed(() => robots.robot === null ? null : ownBoard(robots.robot))
  const board = computed((): Board => boards.value.find(b => b.name === (chosen.value ?? robots.robot?.wiring?.board)) ?? BOARDS[0]!)
  /** Whether the robot says how it is connected to this board. */
  const known = computed(() => robots.robot === null ? null : wiringOn(robots.robot, board.value))
  const own = computed(() => known.value?.own === true)
  const wiring = computed((): Wiring => known.value?.wiring ?? { board: board.value.name, ports: {} })
  const fitted = computed(() => robots.robot === null ? [] : fittedOn(robots.robot))
  const problems = computed(() => robots.robot === null ? [] : checkWiring(robots.robot, board.value, wiring.value))
  /** Why what is connected cannot be built so; null where it can. */
  const hindrance = computed(() => robots.robot === null ? null : unbuildable(robots.robot, board.value, wiring.value)[0]?.message ?? null)
  /** Which devices can be real over a wire to this board, and why others cannot; none where the board is not driven so. */
  const devices = computed(() => robots.robot === null || hindrance.value !== null || board.value.language !== 'firmata' ? [] : reachable(robots.robot, factsOf(robots.robot), board.value, wiring.value))
  const plan = computed(() => robots.robot === null ? '' : wiringPlan(robots.robot, board.value, wiring.value))

  /** Writes a wiring into the robot's document; a step that undo takes back. */
  function keep(next: Wiring = wiring.value, what = ''): void {
    const own = robots.robot?.wiring?.['own board']
    robots.change(what, (d) => { d['wiring'] = plain({ ...own === undefined ? {} : { 'own board': own }, ...next }) })
    chosen.value = null
  }
  /** Takes a board of one's own into the robot's document and wires the robot to it as would do; why not, else null. */
  function bring(document: unknown): string | null {
    if (robots.robot === null) return 'the robot has something wrong'
    const read = readOwnBoard(document)
    if (!read.ok) return read.problems.slice(0, 3).map(p => `${p.path}: found ${p.value}; ${p.message}`).join('. ')
    const { wiring } = suggestWiring(robots.robot, read.value)
    robots.change('', (d) => { d['wiring'] = plain({ ...wiring, 'own board': document }) })
    chosen.value = null
    return null
  }
  /** Takes it out again; the robot is wired to the first of ours then. */
  function putAway(): void {
    if (robots.robot === null) return
    const now = robots.robot.wiring
    const { board, ports } = now !== null && BOARDS.some(b => b.name === now.board) ? now : suggestWiring(robots.robot, BOARDS[0]!).wiring
    robots.change('', (d) => { d['wiring'] = plain({ board, ports }) })
    chosen.value = null
  }
  /** As would do, in place of what the robot says. */
  function suggest(): void { if (robots.robot !== null) keep(suggestWiring(robots.robot, board.value).wiring) }
  function connect(port: string, wired: PortWiring): void {
    keep({ board: board.value.name, ports: { ...wiring.value.ports, [port]: wired } }, `wiring ${port}`)
  }
  /** Connects what is on a port in another way. */
  function connectBy(of: Fitted, by: string): void { if (robots.robot !== null) connect(of.port, connectedBy(robots.robot, board.value, wiring.value, of, by)) }
  const choose = (name: string): void => { chosen.value = name }

  return { boards, brought, bring, putAway, board, own, wiring, fitted, problems, hindrance, devices, plan, keep, suggest, connect, connectBy, choose }
})
