import { registerDecorator, type ValidationOptions } from 'class-validator'
import { isCurve } from '../core/time/curve'

const decorator = (name: string, test: (value: unknown) => boolean, message: string, options?: ValidationOptions) => (target: object, property: string): void =>
  registerDecorator({ name, target: target.constructor, propertyName: property, options: { message: `$property ${message}`, ...options }, validator: { validate: test } })

const finite = (value: unknown, low: number, high: number): boolean => typeof value === 'number' && Number.isFinite(value) && value >= low && value <= high

export function isAnimatable(value: unknown, low: number, high: number): boolean {
  if (!isCurve(value)) return finite(value, low, high)
  return value.keys.length > 0 && value.keys.length <= 10000 && value.keys.every((key, i) => finite(key.frame, -1e6, 1e6) && finite(key.value, low, high) && ['hold', 'linear', 'smooth'].includes(key.ease) && (i === 0 || value.keys[i - 1]!.frame < key.frame))
}

/** A number in range, or a curve of such over growing frames. */
export const IsAnimatable = (low = -1e6, high = 1e6, options?: ValidationOptions) => decorator('isAnimatable', value => isAnimatable(value, low, high), `must be a number from ${low} to ${high}, or keys of such`, options)

export const IsAnimatableTriple = (options?: ValidationOptions) => decorator('isAnimatableTriple', value => Array.isArray(value) && value.length === 3 && value.every(part => isAnimatable(part, -1e6, 1e6)), 'must be three numbers', options)

export const IsBlob = (options?: ValidationOptions) => decorator('isBlob', value => typeof value === 'string' && /^[0-9a-f]{64}$/.test(value), 'must be the SHA-256 of a stored file', options)

export const IsPlace = (options?: ValidationOptions) => decorator('isPlace', value => Array.isArray(value) && value.length === 2 && value.every(part => finite(part, -1e6, 1e6)), 'must be a place in the picture: two numbers', options)
