import { bumper } from './bumper'
import type { DeviceKind, DeviceStep } from './device'
import { gyro } from './gyro'
import { sonar } from './sonar'
import { wheelSteps } from './wheels'

/** Every kind of device that can be put on a robot. A new one is a file and a line here. */
export const DEVICE_KINDS: readonly DeviceKind[] = [sonar, bumper, gyro] as readonly unknown[] as readonly DeviceKind[]

/** Every step that commands a device. */
export const DEVICE_STEPS: readonly DeviceStep[] = [...wheelSteps]

/** How those steps are written. */
export const STEP_FORMS = DEVICE_STEPS.map(step => step.form)

export { PORT_KINDS, REALISMS } from './device'
export type {
  DeviceKind, DeviceModel, DeviceStep, Mount, NumberOf, PlannedSlot, PortKind, ReadingSpec, ReadingType,
  RealismName, StepMachine, StepPlan, StepRobot, Surroundings,
} from './device'
export { plainParts } from './form'
export type { Part, SlotKind, StepForm } from './form'
export { WHEELS, WHEEL_CHANNELS, WHEEL_MODE, wheelReadings } from './wheels'
export { WheelDrive } from './drive'
export { Beam } from './beam'
