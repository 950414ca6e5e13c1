import { computed } from 'vue'
import { useTheme } from 'vuetify'

/** Theme colours for what is drawn rather than styled: "#rrggbb" by name. */
export function useColors() {
  const theme = useTheme()
  return computed(() => {
    const { colors } = theme.current.value
    return (name: string): string => String(colors[name] ?? colors['ink'])
  })
}
