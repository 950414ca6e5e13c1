import { defineEventHandler } from 'h3'
import { troubleOf } from '../database/trouble'
import { dataFolder, useStore } from '../utils/store'

/** Whether the server is up, and what a user has to know of its data. */
export default defineEventHandler(async () => {
  try {
    const { damaged, notice } = await useStore()
    return { up: true, damaged, notice }
  } catch (error) {
    return { up: true, damaged: null, notice: troubleOf(error, dataFolder())?.message ?? `The data folder ${dataFolder()} cannot be opened: ${String(error)}` }
  }
})
