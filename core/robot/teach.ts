import type { Rgb } from '../colors'

/** The robot document with a colour taught to it, and to one of its cameras; the one given stays as it is. */
export function withColor(document: unknown, camera: string, known: readonly string[], name: string, [red, green, blue]: Rgb): unknown {
  const percent = (share: number): string => `${Math.round(share * 100)} %`
  const robot = JSON.parse(JSON.stringify(document)) as { colors?: object[], devices?: { name: string, settings?: object }[] }
  robot.colors = [...robot.colors ?? [], { name, red: percent(red), green: percent(green), blue: percent(blue) }]
  const device = robot.devices?.find(d => d.name === camera)
  if (device !== undefined) device.settings = { ...device.settings, colors: [...known, name] }
  return robot
}
