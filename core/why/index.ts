export { why, type Why, type WhyPart, type WhyRule } from './why'
export { type WhyTape } from './reader'
export { LiveConditions, type LivePart } from './live'
