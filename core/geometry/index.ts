export { type Vector, type Quaternion, type Pose, type BodyState, type MutablePose, type MutableQuaternion, type MutableVector, resting, somePose, rotate, yawQuaternion, yawOf, multiply, rotationMatrix, turned } from './vectors'
export { PLAIN_SURFACE, boundOf, Nearby, Ray, Scene, Solid, type SolidShape, type Surface } from './scene'
