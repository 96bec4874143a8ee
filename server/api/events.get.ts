import { createEventStream, defineEventHandler } from 'h3'
import { listen } from '../services/news'

export default defineEventHandler(event => {
  const stream = createEventStream(event)
  const stop = listen(news => {
    void stream.push(JSON.stringify(news))
  })
  const beat = setInterval(() => {
    void stream.push({ event: 'beat', data: '' })
  }, 15000)
  stream.onClosed(async () => {
    stop()
    clearInterval(beat)
    await stream.close()
  })
  void stream.push({ event: 'beat', data: '' })
  return stream.send()
})
