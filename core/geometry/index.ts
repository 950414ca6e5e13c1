export { type Vector, type Quaternion, type Pose, type BodyState, rotate, yawQuaternion, yawOf, multiply, rotationMatrix, turned } from './vectors'
export { PLAIN_SURFACE, boundOf, Scene, Solid, type Hit, type SolidShape, type Surface } from './scene'
