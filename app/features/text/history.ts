import { historyField } from '@codemirror/commands'
import type { EditorState, EditorStateConfig } from '@codemirror/state'
import { EditorState as State } from '@codemirror/state'

/** What can be undone of each project's program, kept while another view is open: by the project's id. */
const kept = new Map<string, { readonly text: string, readonly state: unknown }>()
/** Of how many projects it is kept. */
const MOST = 12

export function keepHistory(project: string, state: EditorState): void {
  kept.delete(project)
  kept.set(project, { text: state.doc.toString(), state: state.toJSON({ history: historyField }) })
  if (kept.size > MOST) kept.delete(kept.keys().next().value!)
}

/** A state with the text and, where it is the text that was left, all that can be undone of it. */
export function withHistory(project: string, text: string, config: EditorStateConfig): EditorState {
  const found = kept.get(project)
  return found?.text === text ? State.fromJSON(found.state, config, { history: historyField }) : State.create({ ...config, doc: text })
}
