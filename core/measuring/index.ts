export { findRobot, foundSays, measuredDocument, type MeasuredRun, type RobotFound, type SensorLine } from './robot'
export { readEnd, readTruths } from './said'
export { findSensor, type SensorFound } from './sensors'
export { endIn, findDeadZone, findWheels, rolledIn, type Course, type EndPose, type Found, type WheelsFound } from './wheels'
