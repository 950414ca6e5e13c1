/** Limpet on a board that speaks Firmata: its sonar by voltage, switches and a lamp. */
export const WIRING = {
  board: 'firmata',
  ports: {
    A: { by: 'no encoder', pins: { power: 'D3', direction: 'D2' } }, B: { by: 'no encoder', pins: { power: 'D5', direction: 'D4' } },
    P2: { by: 'voltage', pins: { signal: 'A0' }, curve: [{ volts: 0, reads: '0 cm' }, { volts: 5, reads: '2.5 m' }] },
    P4: { by: 'switch', pins: { signal: 'D8' } }, P5: { by: 'switch', pins: { signal: 'D12' } }, P8: { by: 'three pins', pins: { red: 'D13', green: 'A1', blue: 'A2' } },
  },
}
