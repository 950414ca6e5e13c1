import { MAX_PARTS } from '../lower-expressions'
import { codeSize, MAX_CODE, partsOf } from '../size'
import { say } from '../wording'
import type { Check } from './index'

/** A program that grows beyond what can run once its routines and functions stand in their places. */
export const size: Check = (program, findings) => {
  if (codeSize(program) > MAX_CODE) findings.error(say.tooLargeInAll(MAX_CODE), { from: 0, to: 0 })
  else if (program.functions.size > 0 && partsOf(program) > MAX_PARTS) findings.error(say.functionsTooLarge(MAX_PARTS), { from: 0, to: 0 })
}
