// One stream of news for all pages of this browser: a browser opens only six connections to one host, and a stream holds
// one for as long as a page is open.
/// <reference lib="webworker" />
export type News = { open: boolean } | { data: string }

const ports = new Set<MessagePort>()
let open = false
const tell = (news: News): void => {
  for (const port of ports) port.postMessage(news)
}
function listen(): void {
  const source = new EventSource('/api/events')
  source.onopen = () => {
    open = true
    tell({ open })
  }
  source.onerror = () => {
    open = false
    tell({ open })
    // It tries again by itself unless it was answered wrongly
    if (source.readyState === EventSource.CLOSED) setTimeout(listen, 2000)
  }
  source.onmessage = event => tell({ data: event.data as string })
}
listen()

;(self as unknown as SharedWorkerGlobalScope).onconnect = event => {
  const port = event.ports[0]!
  ports.add(port)
  // A page says so when it goes
  port.onmessage = () => {
    ports.delete(port)
    port.close()
  }
  port.postMessage({ open } satisfies News)
}
