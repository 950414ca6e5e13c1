import { createError } from 'h3'
import { object, type Schema } from 'yup'
import { plainNumber, text } from '../../../../core/document'
import { idOf, notFound, readBodyOf } from '../../../utils/request'
import { useStore } from '../../../utils/store'

const schema = object({
  base: plainNumber().integer().min(1).required(),
  program: text().max(400_000).defined(),
}).noUnknown() as Schema<{ base: number, program: string }>

/** Saves a program on top of a revision; 409 with the current number when another save came first. */
export default defineEventHandler(async (event) => {
  const { base, program } = await readBodyOf(event, schema)
  const saved = await (await useStore()).projects.save(idOf(event), base, program)
  if (saved === null) throw notFound()
  if (!saved.saved) throw createError({ statusCode: 409, statusMessage: 'another save came first', data: { current: saved.current } })
  return saved
})
