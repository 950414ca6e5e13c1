import { defineEventHandler } from 'h3'
import { wiresNow } from '../../wires/wires'

/** The wires of this machine to boards. */
export default defineEventHandler(() => wiresNow())
