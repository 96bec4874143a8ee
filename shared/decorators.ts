import { generateKeyBetween } from 'fractional-indexing'
import { registerDecorator, type ValidationOptions } from 'class-validator'
import type { NumbersField } from '../core/declare/field'
import { isCurve, type Handle } from '../core/time/curve'

const decorator =
  (name: string, test: (value: unknown) => boolean, message: string, options?: ValidationOptions) =>
  (target: object, property: string): void =>
    registerDecorator({
      name,
      target: target.constructor,
      propertyName: property,
      options: { message: `$property ${message}`, ...options },
      validator: { validate: test },
    })

const finite = (value: unknown, low: number, high: number): boolean =>
  typeof value === 'number' && Number.isFinite(value) && value >= low && value <= high

export function isAnimatable(value: unknown, low: number, high: number): boolean {
  if (!isCurve(value)) return finite(value, low, high)
  const span = Math.max(1, high - low)
  const handle = (found: unknown): boolean =>
    found === undefined ||
    (typeof found === 'object' &&
      found !== null &&
      finite((found as Handle).frames, 0, 1e6) &&
      finite((found as Handle).value, -span * 10, span * 10))
  const { sway } = value
  return (
    value.keys.length > 0 &&
    value.keys.length <= 10000 &&
    value.keys.every(
      (key, i) =>
        finite(key.frame, -1e6, 1e6) &&
        finite(key.value, low, high) &&
        ['hold', 'linear', 'smooth'].includes(key.ease) &&
        (i === 0 || value.keys[i - 1]!.frame < key.frame) &&
        handle(key.before) &&
        handle(key.after),
    ) &&
    (value.drift === undefined || finite(value.drift, -1e6, 1e6)) &&
    (value.perSecond === undefined || finite(value.perSecond, 0.001, 1e6)) &&
    (sway === undefined ||
      (typeof sway === 'object' &&
        sway !== null &&
        finite(sway.amount, -1e6, 1e6) &&
        finite(sway.speed, 0, 1000) &&
        finite(sway.seed, -2147483648, 2147483647)))
  )
}

/** A number in range, or a curve of such over growing frames. */
export const IsAnimatable = (low = -1e6, high = 1e6, options?: ValidationOptions) =>
  decorator(
    'isAnimatable',
    value => isAnimatable(value, low, high),
    `must be a number from ${low} to ${high}, or keys of such`,
    options,
  )

/** So many numbers in a row, each in range or a curve of such. */
export const IsAnimatables = (count: number, low = -1e6, high = 1e6, options?: ValidationOptions) =>
  decorator(
    'isAnimatables',
    value => Array.isArray(value) && value.length === count && value.every(part => isAnimatable(part, low, high)),
    `must be ${count} numbers, or keys of such`,
    options,
  )

const blobName = (value: unknown): boolean => typeof value === 'string' && /^[0-9a-f]{64}$/.test(value)
/** The name of a stored file; where it is nullable, or null. */
export const IsBlob = ({ nullable = false, ...options }: ValidationOptions & { nullable?: boolean } = {}) =>
  decorator(
    'isBlob',
    value => blobName(value) || (nullable && value === null),
    `must be the SHA-256 of a stored file${nullable ? ', or null' : ''}`,
    options,
  )

/** So many finite numbers in a row. */
export const IsNumbers = ({ count, low, high, across = [low, high] }: NumbersField, options?: ValidationOptions) =>
  decorator(
    'isNumbers',
    value =>
      Array.isArray(value) &&
      value.length === count &&
      value.every((part, i) => (i ? finite(part, low, high) : finite(part, ...across))),
    `must be ${count} numbers`,
    options,
  )

/** Things by their names. */
export const IsRecord = (most: number, options?: ValidationOptions) =>
  decorator(
    'isRecord',
    value =>
      typeof value === 'object' &&
      value !== null &&
      !Array.isArray(value) &&
      (value instanceof Map ? value.size : Object.keys(value).length) <= most,
    Number.isFinite(most) ? `must hold things by their names, at most ${most}` : 'must be an object',
    options,
  )

/** A place in an order, between any two of which there is another. */
export const IsOrder = (options?: ValidationOptions) =>
  decorator(
    'isOrder',
    value => {
      if (typeof value !== 'string' || value.length > 200) return false
      try {
        generateKeyBetween(value, null)
        return true
      } catch {
        return false
      }
    },
    'must be a place in an order',
    options,
  )
