<script setup lang="ts">
import { closeBrackets } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap, indentWithTab, isolateHistory, redo, toggleComment, undo } from '@codemirror/commands'
import { bracketMatching, indentUnit } from '@codemirror/language'
import { lintGutter, lintKeymap, setDiagnostics } from '@codemirror/lint'
import { EditorState, type Transaction, type TransactionSpec } from '@codemirror/state'
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
/** The text and its history while nobody sees them: nothing is drawn and measured for it. */
let unseen: EditorState | null = null
const state = (): EditorState | null => unseen ?? view?.state ?? null
/** Takes a change, seen or not. */
function take(change: Transaction | TransactionSpec): void {
  if (view === null) return
  if (unseen === null && props.shown) return view.dispatch(change as TransactionSpec)
  const { state: next, docChanged } = 'state' in change ? change : (unseen ?? view.state).update(change)
  unseen = next
  if (docChanged) emit('edit', next.doc.toString())
}
/** It is seen: all that was changed meanwhile stands in it. */
function reveal(): void {
  if (unseen !== null) view?.setState(unseen)
  unseen = null
  showDiagnostics()
  take({ effects: setLive.of(props.live) })
}

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
      ],
    }),
    // What was typed is told before it is drawn: whoever works on it elsewhere begins meanwhile.
    dispatchTransactions: (all, editor) => {
      const last = all.at(-1)
      if (last !== undefined && all.some(t => t.docChanged)) emit('edit', last.newDoc.toString())
      editor.update(all)
    },
  })
  showDiagnostics()
})
onBeforeUnmount(() => {
  cancelAnimationFrame(frame)
  if (view !== null) keepHistory(props.project, unseen ?? view.state)
  view?.destroy()
})

watch(() => props.text, (text) => {
  const now = state()?.doc.toString()
  if (now !== undefined && text !== now) take({ changes: merged(now, text) })
})
watch(() => props.shown, (shown) => { if (shown) reveal() })
// In the frame that shows what else comes with them: the editor measures the page, which would be laid out twice.
let frame = 0
watch(() => props.diagnostics, () => {
  cancelAnimationFrame(frame)
  frame = requestAnimationFrame(() => { if (props.shown) showDiagnostics() })
})
watch(() => props.live, (live) => { if (props.shown) take({ effects: setLive.of(live) }) })
watch(() => props.facts, () => { if (props.shown) take({}) })

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
    const now = state()
    if (now === null) return
    take(now.replaceSelection(text))
    view?.focus()
  },
  /** Changes by parts: a step of undo each, unless it goes on from the one before. */
  apply: (changes: readonly Change[], goesOn: boolean) => {
    take({ changes: changes as Change[], ...(goesOn ? { userEvent: 'input.nudge' } : { annotations: isolateHistory.of('full') }) })
  },
  undo: () => { const now = state(); if (now !== null) undo({ state: now, dispatch: take }) },
  redo: () => { const now = state(); if (now !== null) redo({ state: now, dispatch: take }) },
  caret: () => {
    const offset = state()?.selection.main.head ?? 0
    const box = unseen === null ? view?.coordsAtPos(offset) : null
    return { offset, left: box?.left ?? 200, top: box?.top ?? 200, bottom: box?.bottom ?? 220 }
  },
  /** Line of the caret, from 1. */
  line: () => { const now = state(); return now === null ? 1 : now.doc.lineAt(now.selection.main.head).number },
  focus: () => view?.focus(),
  /** Puts the caret on a line (from 1) and shows it. */
  goTo: (offset: number) => {
    const now = state()
    if (now === null) return
    const at = Math.min(offset, now.doc.length)
    take({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) })
    view?.focus()
  },
})
</script>

<template>
  <div ref="place" class="editor" />
</template>

<style scoped>
.editor { height: 100%; min-height: 0; overflow: hidden; }
</style>
