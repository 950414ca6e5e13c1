import { useStore } from '../../utils/store'

export default defineEventHandler(async () => (await useStore()).projects.list())
