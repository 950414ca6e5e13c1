/** What a pin of a board may be able to do. `pulse`: tell how long a pulse lasts; `interrupt`: count edges while the program does other things. */
export const ABILITIES = ['input', 'pull-up', 'output', 'pwm', 'servo', 'tone', 'pulse', 'interrupt', 'analogue'] as const
export type Ability = (typeof ABILITIES)[number]

/** One wire of a device that goes to a pin. */
export interface Line {
  readonly name: string
  readonly needs: Ability
  /** What the device puts on it, volts, where that is its own and not the board's. */
  readonly volts?: number
  /** What flows through the pin, milliamperes; left out, next to nothing. */
  readonly draws?: number
}

/** A way in which a device may be connected to a board; which of them one has is up to the part that was bought. */
export interface Connection {
  readonly name: string
  /** What it is like, in a line, for who builds it. */
  readonly says: string
  readonly lines: readonly Line[]
  /** On a two-wire bus: the addresses that such parts have, the usual one first. */
  readonly addresses?: readonly number[]
  /** The address at which it begins before it is given its own: another of its kind that stays there would take that as well. */
  readonly wakes?: number
  /** What the board has to feed it with, milliamperes; 0 for what lives on its pin. */
  readonly feeds: number
  /** Whether it takes the strength that it needs from the battery. */
  readonly battery?: true
  /** What of the device is lost with it: a reading or a step, and what becomes of it. */
  readonly loses?: string
}

/** An open collector or a switch against ground: the board's own resistor pulls it up. */
export const switched = (says: string): Connection => ({ name: 'switch', says, lines: [{ name: 'signal', needs: 'pull-up' }], feeds: 0 })

/** A two-wire bus (I2C); the parts of a bus share its two wires. */
export const onBus = (says: string, addresses: readonly number[], feeds: number): Connection => ({ name: 'bus', says, lines: [], addresses, feeds })

export const voltage = (says: string, feeds: number): Connection => ({ name: 'voltage', says, lines: [{ name: 'signal', needs: 'analogue' }], feeds })

const ENCODER: readonly Line[] = [{ name: 'encoder a', needs: 'interrupt' }, { name: 'encoder b', needs: 'input' }]

/** A motor with an encoder, behind a driver that feeds it from the battery. */
export const MOTOR_CONNECTIONS: readonly Connection[] = [
  { name: 'pin and direction', says: 'a driver with a pin for how strong and one for which way', lines: [{ name: 'power', needs: 'pwm' }, { name: 'direction', needs: 'output' }, ...ENCODER], feeds: 20, battery: true },
  { name: 'two pins', says: 'a driver with a pin for either way', lines: [{ name: 'forwards', needs: 'pwm' }, { name: 'backwards', needs: 'pwm' }, ...ENCODER], feeds: 20, battery: true },
  { name: 'no encoder', says: 'a driver with a pin for how strong and one for which way, and nothing that counts', lines: [{ name: 'power', needs: 'pwm' }, { name: 'direction', needs: 'output' }], feeds: 10, battery: true, loses: 'how far and how fast it turns is not known: what goes by a way or an angle goes by power and time' },
]

/** A servo finds its place by itself, told by a pulse of 1 to 2 ms. */
export const servo = (loses?: string): Connection => ({ name: 'servo', says: 'a servo, fed from the battery: a pulse of 1 ms is one end, of 2 ms the other', lines: [{ name: 'signal', needs: 'servo' }], feeds: 0, battery: true, loses })
