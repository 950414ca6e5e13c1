export { readRobot, ROBOT_VERSION, type Robot, type RobotDevice, type RobotDocument } from './robot'
export { factsOf, stepRobotOf, type DeviceFacts, type RobotFacts } from './facts'
