import { onMounted, ref } from 'vue'
import { api } from '~/utils/api'

/** What the server has to say of its start, for people. */
export function useServerNotice() {
  const notice = ref<string | null>(null)
  onMounted(async () => {
    const status = await api.status()
    if (status.ok && status.value.notice !== null) notice.value = status.value.notice
    else if (status.ok && status.value.damaged !== null) {
      notice.value = `The database file was damaged. It is kept as ${status.value.damaged}, and a new one was begun with the demo projects.`
    }
  })
  return { notice }
}
