declare module 'firmata-io' {
  import type { Duplex } from 'node:stream'
  interface FirmataClient {
    readonly MODES: Readonly<Record<'INPUT' | 'OUTPUT' | 'ANALOG' | 'PWM' | 'SERVO' | 'PULLUP', number>>
    readonly pins: readonly { readonly supportedModes: readonly number[], readonly analogChannel: number, readonly value: number }[]
    readonly analogPins: readonly number[]
    readonly firmware: { readonly name: string, readonly version: { readonly major: number, readonly minor: number } }
    once(event: 'ready' | 'error', act: (error?: Error) => void): void
    pinMode(pin: number, mode: number): void
    analogRead(channel: number, hear: (value: number) => void): void
    digitalRead(pin: number, hear: (value: number) => void): void
    digitalWrite(pin: number, value: number): void
    pwmWrite(pin: number, value: number): void
    servoConfig(pin: number, low: number, high: number): void
    servoWrite(pin: number, value: number): void
    i2cConfig(): void
    i2cWriteReg(address: number, register: number, byte: number): void
    i2cReadOnce(address: number, register: number, count: number, hear: (bytes: readonly number[]) => void): void
    queryPinState(pin: number, hear: () => void): void
  }
  export const Firmata: new (transport: Duplex, options?: object) => FirmataClient
}
