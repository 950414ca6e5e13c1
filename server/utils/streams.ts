const open = new Set<() => unknown>()

/** Has an answer that goes on for ever end with the server, which would else wait for it. Call what comes back once it has ended by itself. */
export function endsWithServer(end: () => unknown): () => void {
  open.add(end)
  return () => open.delete(end)
}

/** Ends them all. */
export function endStreams(): void { for (const end of open) void end() }
