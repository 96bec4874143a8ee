/// <reference path="../internal.d.ts" />
// What no other route takes: said so, instead of the page that answers every other address.
import { defineEventHandler, setHeader, setResponseStatus } from 'h3'
import { handlers } from '#nitro-internal-virtual/server-handlers'

const known = handlers
  .filter(({ route, method }) => route?.startsWith('/api/') && method && !route.includes('**'))
  .map(({ route, method }) => ({
    method: method!.toUpperCase(),
    pattern: new RegExp(`^${route!.replace(/:[^/]+/g, '[^/]+')}/?$`),
  }))

export default defineEventHandler(event => {
  const path = event.path.split('?')[0]!
  const methods = known.filter(({ pattern }) => pattern.test(path)).map(({ method }) => method)
  if (methods.length) {
    setResponseStatus(event, 405)
    setHeader(event, 'allow', [...new Set(methods)].join(', '))
    return { message: `This address takes ${[...new Set(methods)].join(', ')}, not ${event.method}.` }
  }
  setResponseStatus(event, 404)
  return { message: 'There is no such address.' }
})
