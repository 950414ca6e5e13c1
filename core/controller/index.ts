export { Controller, type ControllerEnd, type ControllerSnapshot, type Told } from './controller'
export { CourseRecorder, CourseRig, type CourseTick } from './course'
export type { Rig } from './rig'
