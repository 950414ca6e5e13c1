export { applyChanges, commentsIn, sheetOf, type Change, type Sheet } from './sheet'
export { outlineOf, type Card, type CardKind, type Comment, type KnownRows, type NamedRow, type Outline, type RuleRow, type StepLine } from './outline'
export { modeMap, type ModeMap } from './map'
export { isEditable, type Piece } from './pieces'
export { conditionChoices, defaultStep, dialName, givenBy, stepChoices, valueChoices, type Choice, type Given } from './choices'
export { addPart, removePart, replacePiece, setCondition, setHeld, setUntil, toggleNot, toggleOnce } from './conditions'
export { addMemoryLine, converted, freeName, makeDial, nameAt, nameProblem, nudge, rename, type Naming } from './names'
export {
  addComment, addElse, addHeading, duplicate, editComment, insertRule, insertStep, merged, moveItem, moveRuleTo, moveStep, removeItem, removeStep, replaceStep, setCommentAbove, toggleOff, wrapStep,
  type Edit,
} from './structure'
