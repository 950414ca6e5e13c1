import { h } from 'vue'
import type { IconProps } from 'vuetify'
import { glyphs } from '~/controls'

/** Vuetify's icons are characters. */
const Glyph = ({ icon, tag }: IconProps) => h(tag, { 'aria-hidden': true }, String(icon ?? ''))

/** Before Vuetify is made: its icons, and the page's nonce for the theme that it writes. */
export default defineNuxtPlugin({
  name: 'controls',
  enforce: 'pre',
  setup(nuxt) {
    nuxt.hook('vuetify:before-create', ({ vuetifyOptions }) => {
      vuetifyOptions.icons = { defaultSet: 'glyph', sets: { glyph: { component: Glyph as never } }, aliases: glyphs as never }
      const nonce = document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce
      if (nonce === undefined || nonce === '' || typeof vuetifyOptions.theme !== 'object') return
      vuetifyOptions.theme.cspNonce = nonce
    })
  },
})
