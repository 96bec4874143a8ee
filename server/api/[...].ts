// What no other route takes: said so, instead of the page that answers every other address.
import { defineEventHandler, setHeader, setResponseStatus } from 'h3'
// @ts-expect-error a module that Nitro makes while it builds, of the routes that it found
import { handlers } from '#nitro-internal-virtual/server-handlers'

const known = (handlers as { route?: string; method?: string }[])
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
