import type { SchemaDescription, SchemaFieldDescription, SchemaInnerTypeDescription, SchemaObjectDescription } from 'yup'
import { arenaSchema } from '../core/arena/arena'
import { ALL_DEVICE_KINDS, DEVICE_KINDS } from '../core/devices'
import { hex } from '../core/hardware'
import { RESERVED } from '../core/language'
import { robotSchema } from '../core/robot/robot'
import { projectFileSchema } from '../core/simulation/project'
import { GOAL_KINDS } from '../core/task'
import { taskSchema } from '../core/task/task'
import { UNITS, formatQuantity, kindName, kindOf, sameKind, type KindName } from '../core/units'

/** The reference of every document, made from the schemas that read them: docs/documents.md is this text. */

type Meta = { readonly quantity?: KindName, readonly min?: number, readonly max?: number }

function shown(kind: KindName, value: number): string {
  const all = UNITS.filter(u => sameKind(u.kind, kindOf(kind)) && (kind !== 'number' || u.name === '%'))
  const unit = all.find(u => Math.abs(value / u.scale) >= 1 && Math.abs(value / u.scale) < 1000) ?? all[0]
  return unit === undefined ? String(value) : formatQuantity(value, unit)
}

/** What the names are of fields that people call as they like. */
const NAMED: Readonly<Record<string, string>> = { 'wiring.ports': 'fields by the names of ports ([hardware.md](hardware.md))', 'measured.sensors': 'fields by the names of devices ([measuring.md](measuring.md))' }

/** What may stand in a field, as a person says it. */
function allowed(field: SchemaFieldDescription, path = ''): string {
  const { type, tests = [], oneOf = [], meta } = field as SchemaDescription & { meta?: Meta }
  if (meta?.quantity !== undefined) {
    const { quantity, min, max } = meta
    const bounds = min !== undefined && max !== undefined ? `, ${shown(quantity, min)} to ${shown(quantity, max)}` : min !== undefined ? `, ${shown(quantity, min)} or more` : max !== undefined ? `, up to ${shown(quantity, max)}` : ''
    return `${quantity === 'number' ? 'share' : quantity}${bounds}`
  }
  if (oneOf.length > 0) return oneOf.map(o => JSON.stringify(o)).join(', ')
  const bound = (name: string): unknown => tests.find(t => t.name === name)?.params?.[name]
  const [low, high] = [bound('min'), bound('max')]
  const range = low !== undefined && high !== undefined ? `, ${String(low)} to ${String(high)}` : high !== undefined ? `, up to ${String(high)}` : low !== undefined ? `, ${String(low)} or more` : ''
  switch (type) {
    case 'string': return tests.some(t => t.name === 'matches') ? 'name' : `text${high === undefined ? '' : `, up to ${String(high)} characters`}`
    case 'number': return `${tests.some(t => t.name === 'integer') ? 'whole number' : 'number'}${range}`
    case 'boolean': return 'true or false'
    case 'place': return tests.some(t => t.name === 'extent') ? 'two lengths above 0' : 'two lengths, east and north'
    case 'array': {
      const inner = (field as SchemaInnerTypeDescription).innerType as SchemaFieldDescription | undefined
      return `list${range.replace(', ', ' of ')}${inner === undefined || inner.type === 'object' ? '' : ` of ${allowed(inner)}`}`
    }
    case 'object': return 'fields in braces'
    // Fields by names that people choose.
    case 'lazy': return NAMED[path] ?? 'fields by names'
    default: return 'see below'
  }
}

function usual(field: SchemaFieldDescription): string {
  const { default: value, optional, meta } = field as SchemaDescription & { meta?: Meta }
  if (field.type === 'lazy') return 'none'
  if (value === undefined || (typeof value === 'object' && value !== null && Object.values(value).some(v => typeof v === 'object'))) return optional ? '' : 'needed'
  if (meta?.quantity !== undefined && typeof value === 'number') return shown(meta.quantity, value)
  return typeof value === 'object' ? (Array.isArray(value) && value.length === 0 ? 'none' : optional ? '' : 'needed') : String(value)
}

/** A row for each field, those within it under it. */
function rows(field: SchemaFieldDescription, path: string): string[] {
  const inner = field.type === 'array' ? (field as SchemaInnerTypeDescription).innerType as SchemaFieldDescription | undefined : field
  const fields = inner?.type === 'object' ? (inner as SchemaObjectDescription).fields : {}
  const own = path === '' ? [] : [`| \`${path}\` | ${allowed(field, path)} | ${usual(field)} |`]
  const under = field.type === 'array' ? `${path}[]` : path
  return [...own, ...Object.entries(fields).flatMap(([name, part]) => rows(part, under === '' ? name : `${under}.${name}`))]
}

const table = (description: SchemaFieldDescription): string => ['| field | allowed | left out |', '| --- | --- | --- |', ...rows(description, '')].join('\n')

const kinds = (): string => [...new Set(UNITS.map(u => kindName(u.kind)))].map((kind) => {
  const names = UNITS.filter(u => kindName(u.kind) === kind).map(u => `\`${u.name}\``).join(' ')
  return `| ${kind} | ${names} |`
}).join('\n')

export function documentsReference(): string {
  return `# Documents: every field

Made by \`./mindpath prove reference\` from the schemas that read the documents; a test holds it to them. What the fields
*do* stands in [devices.md](devices.md). Documents are JSON. A quantity is a text with its unit, such as "12 cm"; a plain
number in its place is refused. A *name* is a letter, then letters, digits and _, at most 32 long. "needed" in the last column
means that the field must be there; else it says what holds when it is left out.

Directions: x east, y north, from the south-west corner of the arena; \`turn\`, \`heading\` and \`facing\` are right positive,
0 deg east for things and the robot's own forward for devices; \`tilt\` is up positive; \`right\` of a mount is to the robot's
right. A claw reaches forward from its mount and its jaws open to its left and right; turned on its side by a joint that rolls
(\`along\`), they open up and down. A feeder puts each piece on its belt 4 cm inside of the end that the belt comes from, in
the middle of its width, standing, as it would lie at \`turn\` of the belt.

## Units

| kind | units |
| --- | --- |
${kinds()}

## Names that are taken

No dial, memory, mode, routine, lane or signal may have a word of the language as its name: ${[...RESERVED].sort().map(w => `\`${w}\``).join(' ')}.
No device may be named \`wheels\`, \`robot\`, \`mode\` or \`run\`. No field or key may be named as JavaScript's own
(\`constructor\`, \`toString\` and the like).

## project.json

Paths are from the folder that it stands in.

${table(projectFileSchema.describe())}

## Robot

\`controller.ports\` names each port and says what it takes: ${['motor', 'digital', 'analogue', 'bus'].map(k => `"${k}"`).join(', ')}, or a list of these.
\`devices[].settings\` are those of its kind, below. \`gestures[].poses[].joints\` names joints and says where each goes.

${table(robotSchema.describe())}

${DEVICE_KINDS.map(k => `### Settings of \`${k.kind}\`, a ${k.title} (${k.port === null ? 'no port' : `port: ${k.port}`})\n\n${table(k.schema.describe())}`).join('\n\n')}

## Arena

\`start\` is \`at\` (a place) or \`area\` (\`at\`, \`size\`), and \`heading\`, which may be "any": the seed says then.

${table(arenaSchema.describe())}

## Task

Each goal has its kind in \`goal\` and the fields of that kind. Where a goal has \`counts\`: "once" is met when it is so for an
instant, "held" when it is so for the time of \`hold\` without a break, "at the end" when it is so as the run ends. Without it, a
\`hold\` above 0 makes it one that is held.

${table(taskSchema.describe())}

${GOAL_KINDS.map(g => `### Goal \`${g.goal}\`\n\n${Object.keys((g.schema.describe()).fields).length === 0 ? 'It has no fields.' : table(g.schema.describe())}`).join('\n\n')}
`
}

/** Where the ways in which devices are connected stand in docs/hardware.md. */
const CONNECTIONS = /<!-- connections -->[\s\S]*<!-- \/connections -->/
/** That page with the ways of every kind of device as its file has them. */
export function withConnections(page: string): string {
  const lines = ALL_DEVICE_KINDS.filter(k => k.port !== null).flatMap(({ kind, connections = [] }) => connections.length === 0 ? [`| \`${kind}\` | none | | | no board here can have it |`] : connections.map((c, i) =>
    `| ${i === 0 ? `\`${kind}\`` : ''} | ${c.name} | ${[...c.addresses === undefined ? [] : [`data, clock (${c.addresses.map(hex).join(', ')})`], ...c.lines.map(l => `${l.name}: ${l.needs}${l.volts === undefined ? '' : `, gives ${l.volts} V`}`)].join('; ')} | ${c.feeds === 0 ? '' : `${c.feeds} mA`} | ${c.says}${c.loses === undefined ? '' : `. **Lost**: ${c.loses}`} |`))
  return page.replace(CONNECTIONS, () => ['<!-- connections -->', '| device | by | lines, and what their pins must do | fed | |', '| --- | --- | --- | --- | --- |', ...lines, '<!-- /connections -->'].join('\n'))
}
