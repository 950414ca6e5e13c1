import { prepareRunner } from '~/run/runner'

/** Where the page begins at a Bench, its simulation loads beside the page's own code. */
export default defineNuxtPlugin({
  name: 'simulation',
  setup() {
    if (/^\/projects\/[^/]+\/?$/.test(location.pathname)) prepareRunner()
  },
})
