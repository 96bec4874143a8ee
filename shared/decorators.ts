import { registerDecorator, type ValidationOptions } from 'class-validator'
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

export const IsAnimatableTriple = (options?: ValidationOptions) =>
  decorator(
    'isAnimatableTriple',
    value => Array.isArray(value) && value.length === 3 && value.every(part => isAnimatable(part, -1e6, 1e6)),
    'must be three numbers',
    options,
  )

const blobName = (value: unknown): boolean => typeof value === 'string' && /^[0-9a-f]{64}$/.test(value)
export const IsBlobOrNull = (options?: ValidationOptions) =>
  decorator(
    'isBlobOrNull',
    value => value === null || blobName(value),
    'must be the SHA-256 of a stored file, or null',
    options,
  )
export const IsBlob = (options?: ValidationOptions) =>
  decorator('isBlob', blobName, 'must be the SHA-256 of a stored file', options)

export const IsPlace = (options?: ValidationOptions) =>
  decorator(
    'isPlace',
    value => Array.isArray(value) && value.length === 2 && value.every(part => finite(part, -1e6, 1e6)),
    'must be a place in the picture: two numbers',
    options,
  )

/** So many finite numbers in a row. */
export const IsNumbers = (count: number, low = -1e6, high = 1e6, options?: ValidationOptions) =>
  decorator(
    'isNumbers',
    value => Array.isArray(value) && value.length === count && value.every(part => finite(part, low, high)),
    `must be ${count} numbers`,
    options,
  )

/** Names by names. */
export const IsNames = (options?: ValidationOptions) =>
  decorator(
    'isNames',
    value =>
      typeof value === 'object' &&
      value !== null &&
      !Array.isArray(value) &&
      Object.keys(value).length <= 65535 &&
      Object.values(value).every(name => typeof name === 'string' && name.length > 0 && name.length <= 300),
    'must be names of at most 300 letters',
    options,
  )
