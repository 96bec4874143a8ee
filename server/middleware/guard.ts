// Only this machine's own pages may talk to the server: foreign Host and Origin are refused (DNS rebinding, cross-site
// requests).
import { createError, defineEventHandler, getHeader, setHeader } from 'h3'

const LOCAL = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/

export default defineEventHandler(event => {
  const host = getHeader(event, 'host') ?? ''
  if (!LOCAL.test(host)) throw createError({ statusCode: 403, message: 'Northmist answers only to this machine.' })
  const origin = getHeader(event, 'origin')
  if (origin && origin !== 'null' && !LOCAL.test(origin.replace(/^https?:\/\//, '')))
    throw createError({ statusCode: 403, message: 'Requests from other pages are refused.' })
  if (origin === 'null' || getHeader(event, 'sec-fetch-site') === 'cross-site')
    throw createError({ statusCode: 403, message: 'Requests from other pages are refused.' })
  setHeader(event, 'x-content-type-options', 'nosniff')
  setHeader(event, 'referrer-policy', 'no-referrer')
})
