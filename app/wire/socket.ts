/** A socket to this page's own server. */
export function socketTo(path: string, asked: Readonly<Record<string, string | number>>): WebSocket {
  const url = new URL(path, location.href)
  url.protocol = url.protocol === 'https:' ? 'wss:' : 'ws:'
  for (const [name, value] of Object.entries(asked)) url.searchParams.set(name, String(value))
  const socket = new WebSocket(url)
  socket.binaryType = 'arraybuffer'
  return socket
}
