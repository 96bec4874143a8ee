// Frame rates as exact ratios, and SMPTE timecode.
import { BadInput } from '../formats/errors'

/** Frames a second: numerator / denominator, whole and in lowest terms. */
export interface Rate {
  numerator: number
  denominator: number
}

const divisor = (a: number, b: number): number => (b ? divisor(b, a % b) : a)

/** Lowest terms. Throws BadInput for what is no rate between 1/1000 and 1000. */
export function rateOf(numerator: number, denominator = 1): Rate {
  const shared = divisor(Math.abs(numerator), Math.abs(denominator)) || 1
  const rate = { numerator: numerator / shared, denominator: denominator / shared }
  if (
    !Number.isSafeInteger(rate.numerator) ||
    !Number.isSafeInteger(rate.denominator) ||
    !(rate.numerator > 0) ||
    !(rate.denominator > 0) ||
    rate.numerator > 1e6 ||
    rate.denominator > 1e6 ||
    perSecond(rate) > 1000 ||
    perSecond(rate) < 0.001
  )
    throw new BadInput(`${numerator}/${denominator} is no frame rate.`)
  return rate
}
export const perSecond = ({ numerator, denominator }: Rate): number => numerator / denominator
export const sameRate = (a: Rate, b: Rate): boolean => a.numerator * b.denominator === b.numerator * a.denominator

/** A rate typed or named as people do: 24, 23.976, 29.97, 24000/1001. Decimals near n x 1000/1001 mean that. */
export function parseRate(text: string): Rate {
  const ratio = /^\s*(\d+)\s*[/:]\s*(\d+)\s*$/.exec(text)
  if (ratio) return rateOf(Number(ratio[1]), Number(ratio[2]))
  const value = Number(text.trim().replace(',', '.'))
  if (!(value > 0)) throw new BadInput(`“${text}” is no frame rate; say 25 or 24000/1001.`)
  const whole = Math.round(value)
  if (Math.abs(value - whole) < 1e-9) return rateOf(whole)
  const nominal = Math.ceil(value)
  // 23.976, 23.98, 29.97, 59.94, 47.952, 119.88: the decimals that stand for n x 1000/1001
  if (Math.abs(value - (nominal * 1000) / 1001) < 0.006) return rateOf(nominal * 1000, 1001)
  return rateOf(Math.round(value * 1000), 1000)
}

/** As it is said: the ratio where it is no whole number. */
export const rateText = ({ numerator, denominator }: Rate): string =>
  denominator === 1 ? String(numerator) : `${numerator}/${denominator}`

/**
 * Frames that a clip counted frame for frame is ahead (+) or behind (-) of its own time after so many frames of the
 * shot.
 */
export const driftAfter = (frames: number, clip: Rate, shot: Rate): number =>
  frames * (1 - (clip.numerator * shot.denominator) / (clip.denominator * shot.numerator))

/** Whether counting in drop-frame is defined for the rate: multiples of 30000/1001. */
export const canDropFrames = ({ numerator, denominator }: Rate): boolean =>
  denominator === 1001 && numerator % 30000 === 0

/**
 * hh:mm:ss:ff of a frame counted from midnight, ';' before the frames when numbers are dropped.
 * Drop-frame (SMPTE ST 12-1): the first 2 numbers (4 at 60000/1001) of each minute are left out, but for each tenth
 * minute.
 */
export function timecode(frame: number, rate: Rate, drop = false): string {
  const nominal = Math.round(perSecond(rate))
  const day = nominal * 86400
  let count = Math.floor(frame)
  if (drop) {
    if (!canDropFrames(rate))
      throw new BadInput(`Drop-frame timecode is defined for 30000/1001 and its multiples, not for ${rateText(rate)}.`)
    const left = nominal / 15
    const perTen = nominal * 600 - 9 * left
    const perMinute = nominal * 60 - left
    const dayFrames = perTen * 144
    count = ((count % dayFrames) + dayFrames) % dayFrames
    const tens = Math.floor(count / perTen)
    const within = count % perTen
    count += left * (tens * 9 + (within < nominal * 60 ? 0 : 1 + Math.floor((within - nominal * 60) / perMinute)))
  } else count = ((count % day) + day) % day
  const two = (value: number): string => String(Math.floor(value)).padStart(2, '0')
  return `${two(count / nominal / 3600)}:${two((count / nominal / 60) % 60)}:${two((count / nominal) % 60)}${drop ? ';' : ':'}${two(count % nominal)}`
}

/** The frame that a timecode names, counted from midnight. Throws BadInput for numbers that do not exist. */
export function frameOfTimecode(text: string, rate: Rate): { frame: number; drop: boolean } {
  const parts = /^(\d{2}):(\d{2}):(\d{2})([:;.,])(\d{2,3})$/.exec(text.trim())
  if (!parts) throw new BadInput(`“${text}” is no timecode; it is written 01:00:00:00.`)
  const [hours, minutes, seconds, frames] = [1, 2, 3, 5].map(i => Number(parts[i])) as [number, number, number, number]
  const nominal = Math.round(perSecond(rate))
  const drop = parts[4] !== ':' && canDropFrames(rate)
  if (hours > 23 || minutes > 59 || seconds > 59 || frames >= nominal)
    throw new BadInput(`The timecode ${text} does not exist at ${rateText(rate)}.`)
  const left = nominal / 15
  if (drop && seconds === 0 && minutes % 10 !== 0 && frames < left)
    throw new BadInput(`The timecode ${text} does not exist: drop-frame leaves it out.`)
  const total = hours * 60 + minutes
  return {
    frame: (total * 60 + seconds) * nominal + frames - (drop ? left * (total - Math.floor(total / 10)) : 0),
    drop,
  }
}
