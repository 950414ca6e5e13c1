export { readRobot, ROBOT_VERSION, type Robot, type RobotDevice, type RobotDocument } from './robot'
export { channelCount, factsOf, stepRobotOf, type ActuatorFacts, type DeviceFacts, type RobotFacts } from './facts'
export { axisOf, framesOf, mountRotation, placeFrames, rideOn, within, type FrameSpec } from './frames'
