export { loadPhysics } from './library'
export { gap, type Gap } from './shapes'
export { World, type BodyId, type ColliderPart, type ContactChange, type PhysicsSnapshot } from './world'
