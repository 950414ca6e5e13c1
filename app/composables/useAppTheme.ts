import { computed, watchEffect } from 'vue'
import { useTheme } from 'vuetify'
import { useKept } from './useKept'

/** Light or dark: as the system has it until one chooses; the choice is remembered. */
export function useAppTheme() {
  const theme = useTheme()
  const chosen = useKept<'paper' | 'night' | null>('theme', null)
  const system = globalThis.matchMedia?.('(prefers-color-scheme: dark)').matches === true ? 'night' : 'paper'
  const name = computed(() => chosen.value ?? system)
  watchEffect(() => theme.change(name.value))
  return {
    dark: computed(() => name.value === 'night'),
    toggle: (): void => { chosen.value = name.value === 'night' ? 'paper' : 'night' },
  }
}
