import { kindName, unitsOfKind, type Kind } from '../units'

/**
 * What the language says, each a pure function of what was found and what was expected.
 * The code is stable: it is the page in the docs and what tests look for.
 */
const it = (code: string, message: string) => ({ code, message })

const oneOf = (words: readonly string[]): string =>
  words.length <= 1 ? words.join('') : `${words.slice(0, -1).join(', ')} or ${words.at(-1)}`

/** The word with its article. */
const a = (word: string): string => `${/^[aeiou]/i.test(word) ? 'an' : 'a'} ${word}`

const perhaps = (near: string | null): string => near === null ? '' : ` Did you mean ${near}?`

export const say = {
  // Reading
  textNotClosed: () => it('text-not-closed', 'This text has no closing ". A text ends on the line where it began.'),
  braceNotClosed: () => it('text-not-closed', 'This { has no closing } in the text.'),
  strangeSign: (found: string) => it('strange-sign', `${found} has no meaning in a program.`),
  tab: () => it('tab', 'Found a tab; blocks are indented by two spaces.'),
  indentedAtTop: () => it('indent', 'The first line is indented, and nothing stands above it that it could belong to. Expected it at the margin.'),
  indentBetween: (found: number, near: number) => it('indent', `Found ${found} spaces before this line; the block it seems to belong to has ${near}.`),
  unexpectedBlock: (above: string) => it('indent', `Nothing can be indented under ${above}.`),
  missingBlock: (above: string) => it('empty-block', `Nothing stands under ${above}. Expected at least one step: indented below it, or behind ->.`),
  blockTwice: () => it('empty-block', 'Steps stand behind -> and indented below as well; expected one of the two.'),
  arrowNeedsPlainStep: () => it('arrow', 'A step with a block of its own cannot stand behind ->. Put it on a line below, indented by two spaces.'),
  expected: (expected: string, found: string) => it('expected', `Expected ${expected} here, found ${found}.`),
  expectedOneOf: (words: readonly string[], found: string) => it('expected', `Expected ${oneOf(words)} here, found ${found}.`),
  expectedValue: (found: string) => it('expected-value', `Expected a value here, such as 20 cm or a reading, found ${found}.`),
  expectedName: (what: string, found: string) => it('expected-name', `Expected the name of ${what} here, found ${found}.`),
  expectedText: (example: string, found: string) => it('expected-text', `Expected a text in quotes, as in ${example}, found ${found}.`),
  expectedStep: (found: string) => it('expected-step', `Expected a step here, such as drive 20 cm or wait 1 s, found ${found}.`),
  unknownStep: (found: string, near: string | null) => it('unknown-step', `${found} is not a step.${perhaps(near)}`),
  unknownLine: (found: string, near: string | null) => it('unknown-line', `${found} begins nothing that can stand here. Expected when, otherwise, start, mode, lane, routine, dial, memory or program.${perhaps(near)}`),
  stepAtTop: (found: string) => it('step-outside', `The step ${found} stands outside of any rule. Expected it under start or a rule.`),
  notInMode: (what: string, where: string) => it('misplaced', `A ${what} cannot stand inside ${a(where)}.`),
  unexpectedInStep: (found: string, example: string) => it('unexpected', `${found} does not fit here. A step like this is written ${example}.`),
  unexpectedRest: (found: string) => it('unexpected', `${found} does not fit here: the line was complete before it.`),
  forAndUntil: () => it('for-and-until', 'A step has for or until, not both.'),
  andBesideOr: () => it('and-beside-or', 'and beside or can be read two ways. Put brackets around the part that belongs together.'),
  chainedComparison: () => it('chained', 'One comparison at a time. For a range write: x between 10 cm and 20 cm.'),
  equalsInCondition: () => it('equals', 'Found = in a condition. Comparing is written is; = only sets.'),
  bracketNotClosed: (found: string) => it('bracket', `This ( is not closed: expected ) before ${found}.`),
  tooDeep: () => it('too-deep', 'Brackets and signs are nested too deep here. Use a memory for a part of it.'),
  unknownFunction: (found: string, all: readonly string[]) => it('unknown-function', `${found} is not a function. There are ${all.join(', ')}.`),
  randomHere: () => it('random-here', 'random stands alone as the value of a step or of set, not inside an expression or a condition.'),
  elseAlone: () => it('else-alone', 'This else follows no if and closes no choose.'),
  otherwiseClause: (word: string) => it('otherwise', `otherwise always wants control, so it takes no ${word}.`),
  caseExpected: (found: string) => it('expected', `Under choose, expected a line is … or else, found ${found}.`),

  // Names
  reserved: (name: string) => it('reserved', `${name} is a word of the language and cannot be a name. Choose another, such as ${name}_1.`),
  twice: (what: string, name: string, line: number) => it('twice', `There is already ${a(what)} named ${name}, on line ${line}.`),
  unknownName: (found: string, near: string | null) => it('unknown-name', `${found} is no dial, memory or colour of this program.${perhaps(near)}`),
  unknownDevice: (found: string, robot: string, devices: readonly string[], near: string | null, able: string | null) =>
    it('unknown-device', `${robot} has no device named ${found}. It has ${devices.join(', ')}.${able === null ? perhaps(near) : ` The nearest that could do it is ${able}.`}`),
  unknownTarget: (reading: string, found: string | null, all: readonly string[]) =>
    it('unknown-target', `${reading} is asked of one of ${all.join(', ')}, in brackets: ${reading}(${all[0] ?? ''}). ${found === null ? 'Found none of these.' : `Found ${found}, which this camera does not look for: its settings list what it does.`}`),
  tagHere: () => it('tag-here', 'tag(…) stands only inside a reading of a camera, as in cam.sees(tag(3)).'),
  unknownReading: (device: string, kind: string, found: string, all: readonly string[], near: string | null) =>
    it('unknown-reading', `${device} is ${a(kind)}; it has no reading ${found}. It reads ${all.join(', ')}.${perhaps(near)}`),
  readingTakes: (what: string, wanted: number, found: number) => it('given', `${what} takes ${wanted === 0 ? 'no value' : wanted === 1 ? 'one value' : `${wanted} values`} in brackets, found ${found}.`),
  modeIsOff: (mode: string) => it('mode-off', `Mode ${mode} is switched off, so nothing can go there. Switch this step off too, or the mode on.`),
  offHere: (found: string) => it('off-here', `off switches off what stands behind it: a rule, a step, a mode or a lane. Found ${found}.`),
  unknownMode: (found: string, all: readonly string[], near: string | null) => it('unknown-mode', `There is no mode named ${found}${all.length === 0 ? '; this program has none' : `. There are ${all.join(', ')}`}.${perhaps(near)}`),
  modeOfOtherLane: (found: string, lane: string) => it('unknown-mode', `The mode ${found} belongs to lane ${lane}; go stays within its own lane. To reach another lane, send it a signal.`),
  unknownRoutine: (found: string, near: string | null) => it('unknown-routine', `There is no routine named ${found}.${perhaps(near)}`),
  unknownMemory: (found: string, near: string | null) => it('unknown-memory', `There is no memory named ${found}. Add a line: memory ${found} = 0.${perhaps(near)}`),
  setDial: (name: string) => it('set-dial', `${name} is a dial: it is set by hand while tuning. To change a value by program, make it a memory.`),
  unheard: (name: string) => it('signal-unheard', `Nothing hears ${name}. Add a rule: when heard ${name}.`),
  unsent: (name: string) => it('signal-unsent', `Nothing sends ${name}, so this is never true.`),
  recursion: (name: string) => it('recursion', `The routine ${name} comes back to itself; routines cannot call themselves. Use repeat.`),
  routineGiven: (name: string, wanted: number, found: number) => it('given', `The routine ${name} takes ${wanted} value${wanted === 1 ? '' : 's'}, found ${found}.`),
  noDevice: (step: string, kinds: readonly string[], robot: string) => it('no-device', `${step} needs ${oneOf(kinds.map(a))}; ${robot} has none.`),
  wrongDevice: (name: string, kind: string, step: string, kinds: readonly string[]) => it('wrong-device', `${name} is ${a(kind)}; ${step} needs ${oneOf(kinds.map(a))}.`),
  notKept: (what: string, name: string, all: readonly string[]) => it('not-kept', `The robot keeps no ${what} named ${name}.${all.length === 0 ? ` It keeps none; the Robot view adds one.` : ` It keeps ${all.join(', ')}.`}`),
  misfit: (message: string) => it('misfit', message),
  notResettable: (what: string, all: readonly string[]) => it('not-resettable', `${what} cannot be reset. ${all.length === 0 ? 'This robot has no reading that can.' : `These can: ${all.join(', ')}.`}`),

  // Kinds
  whatUnit: (figure: string, kind: Kind) => it('unit-missing', `${figure} what? Expected ${a(kindName(kind))}: ${oneOf(unitsOfKind(kind).slice(0, 3).map(u => `${figure} ${u.name}`))}.`),
  percentMissing: (figure: string) => it('unit-missing', `${figure} what? Expected a share, such as ${figure} %.`),
  kinds: (verb: string, left: string, right: string) => it('kinds', `Cannot ${verb} ${a(left)} and ${a(right)}.`),
  wrongKind: (expected: string, found: string, where: string) => it('wrong-kind', `Expected ${a(expected)} ${where}, found ${a(found)}.`),
  notOrdered: (found: string) => it('not-ordered', `${a(found).replace(/^a/, 'A')} has no larger and smaller. Compare it with is.`),
  notTruth: (found: string) => it('not-truth', `Expected something true or false here, found ${a(found)}. Compare it, as in x < 20 cm.`),
  conditionOnly: (what: string) => it('condition-only', `${what} can stand after when, until and wait until only.`),
  negativeTime: () => it('negative-time', 'A time cannot be negative.'),
  dialRange: (value: string, from: string, to: string) => it('dial-range', `The value ${value} lies outside of the dial's own range, ${from} to ${to}.`),
  dialTurned: () => it('dial-range', 'The range of this dial is turned round: from must be less than to.'),
  dialLiteral: () => it('dial-literal', 'A dial holds a number with a unit, such as 20 cm, not an expression.'),
  memoryChanges: () => it('dial-literal', 'A memory begins with a fixed value: a number, a truth or a colour.'),

  // Meaning
  noTimePasses: () => it('no-time', 'No time passes in this loop: it would spin on one instant for ever. Put a wait, or a step that takes time, inside.'),
  endless: () => it('never-reached', 'This is never reached: the steps above it never come to an end here.'),
  heldReplaced: () => it('held-replaced', 'The next step replaces this motion at once, so it never moves. Give it a distance, for or until.'),
  heldLast: () => it('held-last', 'This motion is held at the end of a rule whose first step moves the same wheels: it has no effect. Give it a distance, for or until.'),
  heldInOnce: () => it('held-once', 'A rule that acts once and takes no time cannot hold a motion. Give the motion a distance, for or until.'),
  twoLanes: (actuator: string, other: string, line: number) => it('two-lanes', `${actuator} already belongs to lane ${other} (line ${line}). Two lanes cannot move it. Make this a rule higher up in lane ${other}, or send that lane a signal.`),
  goInShared: (name: string) => it('shared-go', `The routine ${name} is used by two lanes, so it may not go to a mode.`),
  otherwiseNotLast: () => it('otherwise-last', 'otherwise stands last: the rules below it could never have control.'),
  twoOtherwise: () => it('otherwise-last', 'There is one otherwise already.'),
  leaveAlone: () => it('leave-alone', 'leave stands in no repeat.'),
  beyondRange: (what: string, bound: string, always: boolean) => it('beyond-range', `${what} reads up to ${bound}, so this is ${always ? 'always' : 'never'} true${always ? '' : ' but for no echo'}.`),
  belowRange: (what: string, bound: string, always: boolean) => it('beyond-range', `${what} reads no less than ${bound}, so this is ${always ? 'always' : 'never'} true.`),
  unused: (what: string, name: string) => it('unused', `The ${what} ${name} is never used.`),
  neverRead: (name: string) => it('never-read', `The memory ${name} is set but never read.`),
  neverEntered: (name: string) => it('never-entered', `Nothing goes to the mode ${name}.`),
  neverLeft: (name: string) => it('never-left', `Nothing leaves the mode ${name}: the other modes of its lane are over then. If it is to be the last, end it with finish; else add a rule with go.`),
  neverWins: (line: number) => it('never-wins', `This rule never has control: the rule on line ${line} wants control whenever it does.`),
  neverTaken: (line: number) => it('never-wins', `This way is never gone: the one on line ${line} is taken whenever this one would be.`),
  beyondMotor: (most: string) => it('beyond-motor', `The motors reach ${most} at most: more is asked here than they can do.`),
  beyondJoint: (joint: string, from: string, to: string) => it('beyond-joint', `${joint} moves from ${from} to ${to}: it would go to its end and no farther.`),
  lostEcho: (device: string) => it('lost-echo', `A lost ping of ${device} counts as its greatest distance here, so the robot goes at its fastest. Bound it with min(…) or clamp(…), or ask ${device}.sees.`),
  noTimeOnOneWay: () => it('no-time-way', 'Time passes in this loop on some ways only: on the others it spins on one instant and stops its lane. Put a wait at its end.'),
  floorBefore: (device: string, from: string) => it('sees-floor', `${device} sees the floor from ${from} on, so it never reads more. Mount it higher or tilt it up, or ask for less.`),
  isMeasure: (reading: string) => it('is-measure', `${reading} is measured: it is hardly ever exactly this. Write < or >, or between … and ….`),
  endsAtOnce: () => it('ends-at-once', 'The program ends with this step, and its motion with it: nothing moves. Give it a distance, for or until, or put it under otherwise.'),
  decidesOnce: () => it('acts-once', 'This program decides once, at its beginning, and ends. To decide all the time, write a rule: when … with the steps under it.'),
  gap: (reading: string, below: string, above: string) => it('gap', `From ${below} to ${above} no rule answers to ${reading}. Move one of the two, or end with otherwise.`),
  leftOut: (reading: string, at: string) => it('gap', `${reading} of exactly ${at} belongs to neither rule. End with otherwise, or write <= or >= in one of them.`),
  overlap: (reading: string, from: string, to: string) => it('overlap', `From ${from} to ${to} both rules want control by ${reading}; the upper one has it.`),
  undoOneAnother: (line: number, reading: string, at: string) => it('undo-each-other', `This rule and the one on line ${line} undo one another at ${at}: the robot rocks there. Let this one last longer: until ${reading} > a little more than ${at}.`),
  tooFast: (device: string, speed: string, blind: string, limit: string) => it('reaction', `At ${speed} the robot goes ${blind} before a look of ${device} can change anything, and the threshold leaves ${limit}. Drive slower, or react earlier.`),
  shorterThanLook: (device: string, ms: number) => it('shorter-than-look', `${device} looks every ${ms} ms: a shorter for confirms nothing, it still waits for the next look.`),
  neverReleased: (device: string, claw: boolean) => it('never-released', claw ? `${device} closes and never opens: what it grips is never let go.` : `${device} is switched on and never off: what it holds is never let go.`),
  mayDrop: (device: string, line: number) => it('may-drop', `The rule on line ${line} can take over while ${device} holds something: these steps are dropped, and the load stays where the robot then goes. Put this rule higher, or let that one wait with not ${device}.holding.`),
  sameTurn: (side: string) => it('same-turn', `Every reaction turns ${side} by the same angle: a corner can catch the robot for ever. Try a random angle, such as turn ${side} random 60 deg to 140 deg.`),
  blocksForNothing: () => it('blocks', 'While this is true, the rule has control and moves nothing, so the robot stands. If it should only act in passing, add once.'),
  cutsItself: (name: string, line: number) => it('cuts-itself', `Setting ${name} here can let the rule on line ${line} take over at once; the steps below it are dropped. Set it last.`),
  neverFinishes: () => it('never-finishes', 'The task asks the robot to stop by itself, and this program has no finish.'),
  actsOnce: () => it('acts-once', 'This program waits once, acts once and ends. To react every time, write a rule: when … with the steps under it.'),
  nothing: () => it('empty', 'The program has no start and no rule: there is nothing to do.'),
  tooLargeInAll: (most: number) => it('too-long', `This program is too large: with every routine in its place it has more than ${most} instructions. Routines that call others many times over grow fast.`),
  tooLong: () => it('too-long', 'The program is too long once its routines are put in place. Call them less often.'),
}
