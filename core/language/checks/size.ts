import { codeSize, MAX_CODE } from '../size'
import { say } from '../wording'
import type { Check } from './index'

/** A program that grows beyond what can run once its routines stand in their places. */
export const size: Check = (program, findings) => {
  if (codeSize(program) > MAX_CODE) findings.error(say.tooLargeInAll(MAX_CODE), { from: 0, to: 0 })
}
