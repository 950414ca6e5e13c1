// Files of runs (./kept) and what they mean (./context) need the simulation, and with it the physics: whoever does not, stays light.
export { broughtOver, type BroughtOver } from './bring'
export { columnsOf, columnText, columnValue, placeColumns, unitOf, type Column } from './columns'
export { csvOf, field } from './csv'
export { differingSaid, firstDifference, ruleSaid, sameRules, type Compared, type Comparison, type Differing } from './difference'
export { apart, bandsOf, firstsOf, traceOf, wayOf, type Apart, type Band, type LaidTrace, type Trace, type Way } from './glance'
export { metIn, outlineOf, standingOf, stuckFor, touchesIn, type RunOutline, type Standing } from './outline'
export { stuckIn, stuckSaid, type Stuck } from './stuck'
export { LEAST_BUDGET, MOST_BUDGET } from './room'
