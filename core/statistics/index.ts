export { binomialBelow, differenceOf, pairedDifference, pairsMore, signTest, wilson, Z95, type Estimate, type Pairs } from './proportions'
export { medianOf, spreadOf, type Spread } from './spread'
