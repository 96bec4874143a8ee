// Requests in, checked; errors out, as sentences.
import 'reflect-metadata'
import { plainToInstance } from 'class-transformer'
import { validate } from 'class-validator'
import {
  createError,
  defineEventHandler,
  getHeader,
  getRouterParam,
  readRawBody,
  setHeader,
  setResponseStatus,
  type H3Event,
} from 'h3'
import { STATUS_CODES } from 'node:http'
import { BadInput } from '../../core/formats/errors'
import { sentences } from '../../shared/validate'
import { unsound } from '../../shared/sound'
import { NotFound, OldPage, Stale } from '../services/shots'
import { outageOf } from '../services/outage'

const MAXIMUM_BODY = 16 * 1048576

/** A route whose errors become answers: 400 with a sentence, 404, 409 with the newer shot. */
export function route<T>(handler: (event: H3Event) => Promise<T>) {
  return defineEventHandler(async event => {
    try {
      return await handler(event)
    } catch (error) {
      if (error instanceof Stale) {
        setResponseStatus(event, 409)
        return { message: error.message, revision: error.row.revision, document: error.row.document }
      }
      const outage = outageOf(error)
      const [statusCode, message] =
        error instanceof BadInput
          ? [400, error.message]
          : error instanceof NotFound
            ? [404, error.message]
            : error instanceof OldPage
              ? // A page keeps its work through a 503
                [503, error.message]
              : outage
                ? [503, outage]
                : [500, 'The server failed at this; its log says why.']
      if (statusCode === 503) setHeader(event, 'retry-after', 2)
      if (statusCode === 500) {
        if ((error as { statusCode?: number }).statusCode) throw error
        console.error(error)
      }
      throw createError({ statusCode, message, statusMessage: STATUS_CODES[statusCode], data: { message } })
    }
  })
}

/** The JSON body as an instance of a class, checked by its decorators. */
export async function bodyOf<T extends object>(event: H3Event, type: new () => T): Promise<T> {
  // Without a length nothing says how much would be taken into memory
  const length = Number(getHeader(event, 'content-length') ?? NaN)
  if (!(length >= 0)) throw new BadInput('The request must say how long it is.')
  if (length > MAXIMUM_BODY) throw new BadInput('The request is larger than 16 MiB.')
  if (!(getHeader(event, 'content-type') ?? '').startsWith('application/json'))
    throw new BadInput('The request must be JSON.')
  const text = (await readRawBody(event, 'utf8')) ?? ''
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    throw new BadInput('The request is not valid JSON.')
  }
  const fault = unsound(value)
  if (fault) throw new BadInput(`The request ${fault}.`)
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new BadInput('The request must be a JSON object.')
  const instance = plainToInstance(type, value)
  const errors = await validate(instance, { whitelist: true, forbidNonWhitelisted: true, stopAtFirstError: true })
  if (errors.length) throw new BadInput(`The request is not valid: ${sentences(errors).slice(0, 3).join('; ')}.`)
  return instance
}

export const idOf = (event: H3Event, name = 'id'): string => {
  const id = getRouterParam(event, name) ?? ''
  if (!/^[0-9a-z-]{1,64}$/i.test(id)) throw new NotFound('There is no such thing.')
  return id
}
