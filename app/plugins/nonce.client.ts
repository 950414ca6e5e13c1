/** Hands the page's nonce to Vuetify before it writes its theme. */
export default defineNuxtPlugin({
  name: 'style-nonce',
  enforce: 'pre',
  setup(nuxt) {
    nuxt.hook('vuetify:before-create', ({ vuetifyOptions }) => {
      const nonce = document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce
      if (nonce === undefined || nonce === '' || typeof vuetifyOptions.theme !== 'object') return
      vuetifyOptions.theme.cspNonce = nonce
    })
  },
})
