import { beacon } from './beacon'
import { bumper, touch } from './bumper'
import { camera } from './camera'
import { claw, clawSteps } from './claw'
import { color } from './color'
import type { DeviceKind, DeviceStep } from './device'
import { wheelPair } from './drive'
import { gate } from './gate'
import { gyro } from './gyro'
import { joint, jointSteps, slide } from './joint'
import { light } from './light'
import { otherSteps } from './looking'
import { magnet, magnetSteps } from './magnet'
import { motor, motorSteps } from './motor'
import { display, horn, lamp, signSteps } from './signs'
import { bin, plate } from './passive'
import { sonar } from './sonar'
import { sound } from './sound'
import { tof } from './tof'
import { wheelSteps } from './wheels'

/** Every kind of device that can be put on a robot. A new one is a file and a line here. */
export const DEVICE_KINDS: readonly DeviceKind[] = [
  sonar, tof, bumper, touch, color, light, sound, gyro, camera, beacon, gate, joint, slide, claw, motor, magnet, lamp, horn, display, plate, bin,
]

/** Those, and the wheels, which the robot document has a place of its own for. */
export const ALL_DEVICE_KINDS: readonly DeviceKind[] = [wheelPair, ...DEVICE_KINDS]

/** What a hand can do to a device of a kind, by the kind's name; null where nothing. */
export const handOn = (kind: string): 'eye' | 'switch' | null => DEVICE_KINDS.find(k => k.kind === kind)?.hand ?? null

/** Every step that commands a device. */
export const DEVICE_STEPS: readonly DeviceStep[] = [...wheelSteps, ...jointSteps, ...motorSteps, ...clawSteps, ...magnetSteps, ...signSteps, ...otherSteps]

/** How those steps are written. */
export const STEP_FORMS = DEVICE_STEPS.map(step => step.form)

export { PORT_KINDS, REALISMS, RUN_REALISMS, USUAL_MAKE } from './device'
export type {
  ActuatorSpec, DeviceKind, DeviceModel, DevicePart, DeviceStep, Gesture, LinkSpec, LooseThing, Motion, Mount, NumberOf, PlannedSlot, PortKind, ReadingSpec, ReadingType,
  RealismName, RobotMake, RunRealism, SensorError, StepMachine, StepPlan, StepRobot, RobotBuild, Surroundings, TaughtColor, Truth, Work, PictureMark,
} from './device'
export { ABILITIES, MOTOR_CONNECTIONS, type Ability, type Connection, type Line } from './connection'
export { plainParts } from './form'
export type { KeptKind, Part, PlainPart, SlotKind, StepForm } from './form'
export { NEAR, NEAR_ANGLE, WHEELS, WHEEL_MODE, wheelSettingsOf } from './wheels'
export { wheelPair, type DriveSettings } from './drive'
export { NAMING, nameOf, namedPlaces } from './color'
export { Beam } from './beam'
export { LETTER, readScreen, screenWords, type Screen, type ScreenSize } from './screen'
export { motorShare } from './motor'
export { describeSettings, settingsOf, type SettingSpec, type Write } from './settings'
