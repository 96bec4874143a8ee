// A pool thread in the browser.
import { serveBands, type WorkerStart } from '../../core/build/pool'

self.onmessage = (event: MessageEvent<WorkerStart>) => {
  self.postMessage('ready')
  serveBands(event.data)
}
