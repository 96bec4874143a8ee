// A pool thread in the browser.
import { serveBands, type WorkerStart } from '../../core/engine/pool'

self.onmessage = (event: MessageEvent<WorkerStart>) => {
  self.postMessage('ready')
  serveBands(event.data)
}
