/** Where menus, notes and sheets stand, in the page before the application is (nuxt.config.ts): a landmark of its own, so that a reader of screens finds them. */
const OVERLAYS = '#overlays'

/**
 * How Vuetify's parts look in this house, all in one place: here what they are, in `assets/controls.css` how large. Colours come
 * from the theme. A part within another may differ: buttons of a bar are filled, those of a panel outlined.
 */
export const controls = {
  global: { ripple: false, transition: false },
  VBtn: { variant: 'outlined', density: 'comfortable', size: 'default' },
  VBtnGroup: { density: 'compact', variant: 'text', VBtn: { variant: 'text' } },
  VBtnToggle: { density: 'compact', variant: 'text', mandatory: true, VBtn: { variant: 'text' } },
  VToolbar: { tag: 'header', color: 'bar', density: 'compact', flat: true, VBtn: { variant: 'flat', color: 'bar-field' } },
  VTextField: { variant: 'outlined', density: 'compact', hideDetails: true, singleLine: true },
  VTextarea: { variant: 'outlined', density: 'compact', hideDetails: true },
  VSelect: { variant: 'outlined', density: 'compact', hideDetails: true, singleLine: true, menuProps: { maxHeight: 320, attach: OVERLAYS } },
  VCheckbox: { density: 'compact', hideDetails: true },
  VCheckboxBtn: { density: 'compact' },
  VSlider: { density: 'compact', hideDetails: true, color: 'ink', trackColor: 'line', thumbSize: 14, trackSize: 4 },
  VTable: { density: 'compact' },
  VList: { density: 'compact', bgColor: 'surface' },
  VListItem: { minHeight: 26 },
  VMenu: { offset: 2, attach: OVERLAYS },
  VTooltip: { openDelay: 500, location: 'bottom', maxWidth: 320, attach: OVERLAYS },
  VDialog: { attach: OVERLAYS },
} as const

/** Vuetify's own signs as characters of the house's type: no font or picture is fetched for them. */
export const glyphs: Readonly<Record<string, string>> = {
  dropdown: '▾', checkboxOn: '☑', checkboxOff: '☐', checkboxIndeterminate: '▣', radioOn: '◉', radioOff: '○', clear: '✕', close: '✕',
  success: '●', info: 'i', warning: '△', error: '✕', prev: '‹', next: '›', plus: '+', minus: '−', expand: '▾', collapse: '▴',
  sortAsc: '▴', sortDesc: '▾', first: '|‹', last: '›|', menu: '≡', complete: '●', cancel: '✕', delete: '✕', loading: '◌', file: '',
}
