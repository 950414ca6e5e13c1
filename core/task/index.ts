export { readTask, DEFAULT_LIMIT, TASK_VERSION, type Task } from './task'
export { gapBetween } from './goals/goal'
export { GOAL_KINDS, placeNames, thingNames, type Goal, type GoalKind, type GoalState, type GoalWorld } from './goals'
