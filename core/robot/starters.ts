/** Robots to begin with: documents as small as a robot can be. */

const ports = {
  A: 'motor', B: 'motor', C: 'motor', D: 'motor',
  P1: ['digital', 'analogue'], P2: ['digital', 'analogue'], P3: ['digital', 'analogue'], P4: 'bus', P5: 'bus', P6: 'bus',
}

/** Two wheels, a castor, and nothing that senses. */
export const BARE_ROVER: object = {
  mindpath: 'robot', version: 1, name: 'rover', about: 'A two-wheeled rover, as yet without a sense.',
  chassis: { length: '16 cm', width: '12 cm', height: '6 cm', clearance: '1.5 cm', mass: '900 g' },
  drive: {
    'radius': '3.2 cm', 'width': '1.6 cm', 'track': '13.8 cm', 'forward': '1 cm', 'top speed': '60 cm/s', 'cruise speed': '20 cm/s', 'turning speed': '120 deg/s',
    'stall torque': '130 mNm', 'ports': ['A', 'B'], 'castors': [{ forward: '-6 cm' }],
  },
  controller: { tick: '20 ms', ports },
  devices: [],
}

/** A post with a base that turns. */
export const BARE_ARM: object = {
  mindpath: 'robot', version: 1, name: 'arm', about: 'A post with a base that turns.',
  chassis: { length: '12 cm', width: '12 cm', height: '16 cm', clearance: '0.2 cm', mass: '4 kg' },
  controller: { tick: '20 ms', ports },
  devices: [
    { name: 'base', kind: 'joint', port: 'A', mount: { up: '16.5 cm' }, settings: { axis: 'upright', from: '-150 deg', to: '150 deg', home: '0 deg', torque: '2 Nm', length: '12 cm' } },
  ],
}
