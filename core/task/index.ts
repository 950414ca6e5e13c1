export { readTask, DEFAULT_LIMIT, TASK_VERSION, type Task } from './task'
export { gapBetween } from './goals/goal'
export { GOAL_KINDS, placeNames, type Goal, type GoalState, type GoalWorld } from './goals'
