/** The colours of the house, by use. Everything on the page takes them from here. */
interface Tokens {
  readonly dark: boolean
  readonly colors: Readonly<Record<string, string>>
}

const paper: Tokens = {
  dark: false,
  colors: {
    background: '#f7f4ec', surface: '#fffdf8', 'on-background': '#17233b', 'on-surface': '#17233b',
    primary: '#17233b', 'on-primary': '#fffdf8', secondary: '#646b78', error: '#a3261b', warning: '#8a5a00', success: '#12715b',
    ink: '#17233b', muted: '#5d6471', line: '#ddd6c6', ground: '#f1ebdf', field: '#f3ead6',
    bar: '#17233b', 'on-bar': '#f7f4ec', 'bar-field': '#2b3a5c',
    signal: '#c8401a', 'signal-tint': '#fdeee6', 'on-signal': '#fffdf8', good: '#12715b', dial: '#dfe8f7',
    water: '#d5e6ea', wave: '#c3d9df', deck: '#d9cfba', plank: '#c9bda4', wall: '#8d8472', hull: '#fffdf8', tyre: '#17233b',
    'device-0': '#1f5fb4', 'device-1': '#8a5a00', 'device-2': '#7a3f9d', 'device-3': '#0f766e', 'device-4': '#b3265a', 'device-5': '#5b6470',
    'device-6': '#4b6b12', 'device-7': '#9a3b12', 'device-8': '#14708f', 'device-9': '#6b4a2b', 'device-10': '#8a2f8a', 'device-11': '#2f6b4a',
    'paint-none': '#b8b2a4', 'paint-black': '#33363c', 'paint-grey': '#9a958a', 'paint-white': '#fbfaf5', 'paint-red': '#c0392b', 'paint-orange': '#e07b22',
    'paint-yellow': '#e3b505', 'paint-green': '#3f8f4f', 'paint-blue': '#2f6fb7', 'paint-violet': '#7d4f9e',
    'syntax-word': '#17233b', 'syntax-number': '#7a4a00', 'syntax-text': '#12715b', 'syntax-comment': '#6b6f63', 'syntax-name': '#2a4a86',
  },
}

const night: Tokens = {
  dark: true,
  colors: {
    background: '#141b2b', surface: '#1a2335', 'on-background': '#ece7da', 'on-surface': '#ece7da',
    primary: '#ece7da', 'on-primary': '#141b2b', secondary: '#a9b0bd', error: '#ff9b8a', warning: '#e8b95c', success: '#6fd0b4',
    ink: '#ece7da', muted: '#a9b0bd', line: '#35405a', ground: '#202b40', field: '#2a3448',
    bar: '#0d1320', 'on-bar': '#ece7da', 'bar-field': '#2b3a5c',
    signal: '#ff8a5c', 'signal-tint': '#3a2a2c', 'on-signal': '#1a1210', good: '#6fd0b4', dial: '#2c3d61',
    water: '#17303a', wave: '#1f3b46', deck: '#4a4638', plank: '#5a5545', wall: '#857d6c', hull: '#e8e2d2', tyre: '#0d1320',
    'device-0': '#7db1ff', 'device-1': '#e0ac4f', 'device-2': '#c99ae6', 'device-3': '#5fcdbf', 'device-4': '#ff8fb5', 'device-5': '#b3bdc9',
    'device-6': '#b1d169', 'device-7': '#f0a07a', 'device-8': '#79cbe6', 'device-9': '#d3b08c', 'device-10': '#e39be3', 'device-11': '#8fd3ae',
    'paint-none': '#6d6a60', 'paint-black': '#0b0d12', 'paint-grey': '#85827a', 'paint-white': '#f2efe6', 'paint-red': '#d65a4c', 'paint-orange': '#f0954a',
    'paint-yellow': '#e8c53a', 'paint-green': '#5fae6e', 'paint-blue': '#5a93d6', 'paint-violet': '#a279c2',
    'syntax-word': '#ece7da', 'syntax-number': '#e8c383', 'syntax-text': '#7fd3ba', 'syntax-comment': '#9aa08f', 'syntax-name': '#9dbdf5',
  },
}

export const themes = { paper, night } as unknown as Record<string, { dark: boolean, colors: Record<string, string> }>

/** How many colours there are for devices; the list goes round. */
export const DEVICE_COLORS = 12
