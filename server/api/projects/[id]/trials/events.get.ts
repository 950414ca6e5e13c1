import { createEventStream } from 'h3'
import { answer, idOf } from '../../../../utils/request'
import { endsWithServer } from '../../../../utils/streams'
import { useTrials } from '../../../../utils/trials'

/** Server-sent events of a project's plans: `{ id, progress }`, whenever one came farther (progress null: its state changed); and of a queue's trouble, `trouble`, as it comes and goes. */
export default answer(async (event, store) => {
  const project = idOf(event)
  const engine = await useTrials(store)
  const stream = createEventStream(event)
  const off = engine.listen((word) => {
    if (word.project === project) void stream.push(JSON.stringify({ id: word.id, progress: word.progress })).catch(() => undefined)
  })
  const offTrouble = engine.listenTrouble((trouble) => { void stream.push({ event: 'trouble', data: JSON.stringify(trouble) }).catch(() => undefined) })
  // The answer begins with the first word: whoever listens knows then that nothing is missed.
  void stream.push({ event: 'listening', data: '' }).catch(() => undefined)
  const ended = endsWithServer(() => stream.close())
  stream.onClosed(async () => { off(); offTrouble(); ended(); await stream.close() })
  return stream.send()
})
