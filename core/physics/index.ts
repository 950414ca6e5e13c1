export { loadPhysics, World, type BodyId, type ColliderPart, type ContactChange, type Gap, type PhysicsSnapshot } from './world'
