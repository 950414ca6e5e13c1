export { why, type Why, type WhyPart, type WhyRule, type WhyTape } from './why'
