export { loadPhysics, World, type BodyId, type ColliderPart, type ContactChange, type PhysicsSnapshot } from './world'
