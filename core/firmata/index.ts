export { FirmataBoard, type Pins } from './board'
export { FIRMATA_VERSION, FirmataReader, PIN_MODE, SYSEX, bytesOf, fromPairs, inPairs, type Message } from './protocol'
export { RobotPins, pinNumbers, type Telling } from './robot-pins'
