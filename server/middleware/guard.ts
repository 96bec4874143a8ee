// Only this machine's own pages may talk to the server: foreign Host and Origin are refused (DNS rebinding, cross-site
// requests), also of other ports of this machine.
import { createError, defineEventHandler, getHeader, setHeader } from 'h3'

const LOCAL = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/

export default defineEventHandler(event => {
  const refuse = (message: string): never => {
    throw createError({ statusCode: 403, message, data: { message } })
  }
  const host = getHeader(event, 'host') ?? ''
  if (!LOCAL.test(host)) refuse('Northmist answers only to this machine.')
  const origin = getHeader(event, 'origin')
  if (origin !== undefined && origin !== `http://${host}`) refuse('Requests from other pages are refused.')
  // A link from elsewhere may open a page; nothing else comes from elsewhere
  const site = getHeader(event, 'sec-fetch-site')
  const opens =
    event.method === 'GET' && getHeader(event, 'sec-fetch-mode') === 'navigate' && !event.path.startsWith('/api/')
  if (site !== undefined && site !== 'same-origin' && site !== 'none' && !opens)
    refuse('Requests from other pages are refused.')
  setHeader(event, 'x-content-type-options', 'nosniff')
  setHeader(event, 'referrer-policy', 'no-referrer')
})
