export { why, type Why, type WhyPart, type WhyRule } from './why'
export { FARTHEST, hadControl, lastChange, memoriesSet, wasTrue, type Stretch } from './questions'
export { type WhyTape } from './reader'
export { LiveConditions, type LivePart } from './live'
