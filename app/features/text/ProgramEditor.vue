<script setup lang="ts">
import { closeBrackets } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap, indentWithTab, isolateHistory, redo, toggleComment, undo } from '@codemirror/commands'
import { bracketMatching, indentUnit } from '@codemirror/language'
import { lintGutter, lintKeymap, setDiagnostics } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, drawSelection, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view'
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import { merged, type Change } from '~~/core/editing'
import type { Diagnostic } from '~~/core/language'
import type { RobotFacts } from '~~/core/robot'
import { colouring, completion, movesOut } from './language'
import { keepHistory, withHistory } from './history'
import { hover } from './hover'
import { liveLines, setLive, type LiveLines } from './live'
import { editorTheme } from './theme'

/** The program as text: colours, completion, mistakes as one types, and where it runs. */
const props = defineProps<{
  /** Whose program it is: what can be undone is kept by that. */
  project: string
  text: string
  facts: RobotFacts | null
  diagnostics: readonly Diagnostic[]
  live: LiveLines | null
  /** What a reading is worth now, as people read it; null where that is not known. */
  worth: (name: string) => string | null
  /** Whether it can be seen: one that cannot keeps the text and its history, and is told the rest when it can. */
  shown: boolean
}>()
const emit = defineEmits<{ edit: [text: string] }>()

/** How many edits can be undone. */
const UNDO = 1000

const place = useTemplateRef<HTMLElement>('place')
/** Kept out of Vue's hands: its state is its own. */
let view: EditorView | null = null

onMounted(() => {
  const facts = (): RobotFacts | null => props.facts
  view = new EditorView({
    parent: place.value!,
    state: withHistory(props.project, props.text, {
      extensions: [
        lintGutter(), lineNumbers(), liveLines(), history({ minDepth: UNDO }), drawSelection(), highlightActiveLine(), bracketMatching(), closeBrackets(), movesOut, EditorView.lineWrapping,
        indentUnit.of('  '), EditorState.tabSize.of(2), EditorState.languageData.of(() => [{ commentTokens: { line: '#' } }]),
        colouring(facts), completion(facts), hover(facts, name => props.worth(name)), editorTheme,
        EditorView.contentAttributes.of({ 'aria-label': 'Program', 'tabindex': '0' }),
        keymap.of([{ key: 'Mod-/', run: toggleComment }, indentWithTab, ...defaultKeymap.filter(k => k.key !== 'Mod-Enter'), ...historyKeymap, ...lintKeymap]),
        EditorView.cspNonce.of(document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce ?? ''),
        EditorView.updateListener.of((update) => { if (update.docChanged) emit('edit', update.state.doc.toString()) }),
      ],
    }),
  })
  showDiagnostics()
})
onBeforeUnmount(() => {
  if (view !== null) keepHistory(props.project, view.state)
  view?.destroy()
})

watch(() => props.text, (text) => {
  if (view === null || text === view.state.doc.toString()) return
  view.dispatch({ changes: merged(view.state.doc.toString(), text) })
})
watch(() => [props.diagnostics, props.shown], () => { if (props.shown) showDiagnostics() })
watch(() => [props.live, props.shown] as const, ([live, shown]) => { if (shown) view?.dispatch({ effects: setLive.of(live) }) })
watch(() => props.facts, () => view?.dispatch({}))

function showDiagnostics(): void {
  if (view === null) return
  const { length } = view.state.doc
  view.dispatch(setDiagnostics(view.state, props.diagnostics.map((d) => {
    const from = Math.min(d.range.from, length)
    const fix = d.fix
    return {
      from, to: Math.min(Math.max(d.range.to, from), length), severity: d.severity, message: d.message,
      actions: fix === null ? [] : [{
        name: fix.title,
        apply: (editor: EditorView) => editor.dispatch({ changes: { from: fix.from, to: fix.to, insert: fix.text } }),
      }],
    }
  })))
}

defineExpose({
  /** Puts text in place of what is chosen. */
  insert: (text: string) => {
    if (view === null) return
    view.dispatch(view.state.replaceSelection(text))
    view.focus()
  },
  /** Changes by parts: a step of undo each, unless it goes on from the one before. */
  apply: (changes: readonly Change[], goesOn: boolean) => {
    view?.dispatch({ changes: changes as Change[], ...(goesOn ? { userEvent: 'input.nudge' } : { annotations: isolateHistory.of('full') }) })
  },
  undo: () => { if (view !== null) undo(view) },
  redo: () => { if (view !== null) redo(view) },
  caret: () => {
    const offset = view?.state.selection.main.head ?? 0
    const box = view?.coordsAtPos(offset)
    return { offset, left: box?.left ?? 200, top: box?.top ?? 200, bottom: box?.bottom ?? 220 }
  },
  /** Line of the caret, from 1. */
  line: () => view === null ? 1 : view.state.doc.lineAt(view.state.selection.main.head).number,
  focus: () => view?.focus(),
  /** Puts the caret on a line (from 1) and shows it. */
  goTo: (offset: number) => {
    if (view === null) return
    const at = Math.min(offset, view.state.doc.length)
    view.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) })
    view.focus()
  },
})
</script>

<template>
  <div ref="place" class="editor" />
</template>

<style scoped>
.editor { height: 100%; min-height: 0; overflow: hidden; }
</style>
