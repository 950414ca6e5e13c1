import { EditorView } from '@codemirror/view'
import { DEVICE_COLORS } from '~/theme'

const token = (name: string): string => `rgb(var(--v-theme-${name}))`

const readings = Object.fromEntries(Array.from({ length: DEVICE_COLORS }, (_, i) => [
  `.mp-device-${i}`, { borderBottom: `2px solid ${token(`device-${i}`)}` },
]))

/** The editor in the house's type and colours. */
export const editorTheme = EditorView.theme({
  '&': { height: '100%', fontSize: '13.5px', color: token('ink'), backgroundColor: token('surface') },
  '.cm-scroller': { fontFamily: 'var(--mono)', lineHeight: '1.55', overflow: 'auto' },
  '.cm-content': { caretColor: token('ink'), padding: '8px 0' },
  '.cm-line': { padding: '0 10px 0 6px', borderLeft: '4px solid transparent' },
  '.cm-gutters': { backgroundColor: token('surface'), color: token('muted'), border: 'none', fontFamily: 'var(--mono)', fontSize: '12px' },
  '.cm-lineNumbers .cm-gutterElement': { padding: '1px 2px 0 8px', minWidth: '26px' },
  '.mp-signs .cm-gutterElement': { color: token('signal'), width: '16px', textAlign: 'center', fontSize: '11px', lineHeight: '1.9' },
  '.mp-quiet': { color: token('muted'), fontFamily: 'var(--mono)' },
  '.cm-lint-marker': { width: '10px', height: '10px' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'transparent' },
  '&.cm-focused .cm-activeLine': { backgroundColor: `rgba(var(--v-theme-ground), 0.55)` },
  '&.cm-focused': { outline: 'none' },
  '.cm-cursor': { borderLeftColor: token('ink'), borderLeftWidth: '2px' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground, .cm-content ::selection': { backgroundColor: `${token('dial')} !important` },
  '.mp-comment': { color: token('syntax-comment'), fontStyle: 'italic' },
  '.mp-text': { color: token('syntax-text') },
  '.mp-number': { color: token('syntax-number'), backgroundColor: token('field'), borderBottom: `1px dashed ${token('muted')}`, borderRadius: '2px', padding: '0 1px' },
  '.mp-dial': { backgroundColor: token('dial'), borderBottom: `2px solid ${token('ink')}`, borderRadius: '2px', padding: '0 2px', fontWeight: '600' },
  '.mp-keyword': { fontWeight: '700' },
  '.mp-color': { color: token('syntax-name') },
  '.mp-step': { color: token('syntax-name') },
  ...readings,
  '.mp-control': { backgroundColor: `${token('signal-tint')} !important`, borderLeftColor: token('signal') },
  '.mp-at-step': { boxShadow: `inset 0 0 0 1.5px ${token('signal')}`, borderRadius: '3px' },
  '.cm-tooltip': { backgroundColor: token('surface'), color: token('ink'), border: `1px solid ${token('line')}`, borderRadius: '5px', boxShadow: '0 3px 12px rgba(0,0,0,.14)' },
  '.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--mono)', fontSize: '13px', maxHeight: '15em' },
  '.cm-tooltip-autocomplete > ul > li': { padding: '2px 8px !important' },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': { backgroundColor: `${token('dial')} !important`, color: `${token('ink')} !important` },
  '.cm-completionDetail': { fontFamily: 'var(--text)', fontStyle: 'normal', color: token('muted'), marginLeft: '1.2em' },
  '.cm-diagnostic': { padding: '6px 10px', borderLeftWidth: '3px', fontFamily: 'var(--text)', maxWidth: '420px' },
  '.cm-diagnosticAction': { backgroundColor: token('primary'), color: token('on-primary'), borderRadius: '4px', padding: '2px 8px', marginLeft: '0', marginTop: '4px', display: 'inline-block' },
  '.cm-lintRange-error': { backgroundImage: 'none', textDecoration: `underline wavy ${token('error')} 1.5px`, textUnderlineOffset: '3px' },
  '.cm-lintRange-warning': { backgroundImage: 'none', textDecoration: `underline wavy ${token('warning')} 1.5px`, textUnderlineOffset: '3px' },
  '.cm-lintRange-info, .cm-lintRange-hint': { backgroundImage: 'none', textDecoration: `underline dotted ${token('muted')} 1.5px`, textUnderlineOffset: '3px' },
  '.mp-about': { padding: '5px 10px', maxWidth: '380px', fontFamily: 'var(--text)', fontSize: '13px', whiteSpace: 'pre-line' },
  '.mp-about-title': { fontWeight: '700', fontFamily: 'var(--mono)' },
  '.mp-about-says': { color: token('muted') },
  '.mp-about-now': { fontFamily: 'var(--mono)', fontSize: '15px', marginTop: '2px' },
  '.mp-worth': { color: token('muted'), fontSize: '12px', marginLeft: '2ch', whiteSpace: 'pre' },
  '.cm-panels': { backgroundColor: token('ground'), color: token('ink') },
})
