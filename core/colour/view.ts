// How scene-linear light is shown: curves to 8-bit display codes, as tables of exact thresholds for the display kernel.
import { encodingOf } from './encoding'

export interface ViewTransform {
  id: string
  label: string
  help: string
  /** Linear to display code 0..1, growing. */
  encode(value: number): number
  /** Its inverse. */
  decode(code: number): number
}

const srgb = encodingOf('srgb')
/**
 * Above the knee, values run towards 1 like 1 - 1/x: highlights keep shape instead of clipping. Common practice, no
 * source for the knee.
 */
const KNEE = 0.6
const shoulder = (value: number): number =>
  value <= KNEE ? value : KNEE + (1 - KNEE) * (1 - 1 / (1 + (value - KNEE) / (1 - KNEE)))
const unshoulder = (value: number): number =>
  value <= KNEE ? value : value >= 1 ? Infinity : KNEE + (1 - KNEE) * (1 / (1 - (value - KNEE) / (1 - KNEE)) - 1)

export const VIEWS: readonly ViewTransform[] = [
  {
    id: 'srgb',
    label: 'sRGB',
    help: 'The sRGB curve; above 1 clips. A display picture comes back as it was.',
    encode: value => srgb.encode!(value),
    decode: code => srgb.decode!(code),
  },
  {
    id: 'soft',
    label: 'soft highlights',
    help: 'sRGB with a shoulder from 0.6 up: bright lamps keep their shape.',
    encode: value => srgb.encode!(shoulder(value)),
    decode: code => unshoulder(srgb.decode!(code)),
  },
  {
    id: 'plain',
    label: 'linear',
    help: 'The numbers as they are, for data.',
    encode: value => value,
    decode: code => code,
  },
]
export function viewOf(id: string): ViewTransform {
  const found = VIEWS.find(view => view.id === id)
  if (!found) throw new Error(`There is no view “${id}”.`)
  return found
}

interface ViewTables {
  thresholds: Float32Array
  guess: Uint8Array
}
/**
 * thresholds[k]: least float32 shown as code k. guess: a code not above the right one, by the upper 16 bits of the
 * float.
 */
export function viewTables(view: ViewTransform): ViewTables {
  const known = TABLES.get(view) ?? tablesOf(view)
  TABLES.set(view, known)
  return known
}
const TABLES = new WeakMap<ViewTransform, ViewTables>()

function tablesOf(view: ViewTransform): ViewTables {
  const thresholds = new Float32Array(258)
  for (let code = 1; code < 256; code++) thresholds[code] = Math.fround(view.decode((code - 0.5) / 255))
  thresholds.fill(Infinity, 256)
  const guess = new Uint8Array(65536)
  const bits = new Uint32Array(1)
  const float = new Float32Array(bits.buffer)
  let code = 0
  for (let high = 0; high < 0x7f80; high++) {
    bits[0] = high << 16
    while (code < 255 && thresholds[code + 1]! <= float[0]!) code++
    guess[high] = code
  }
  guess.fill(255, 0x7f80, 0x8000)
  for (let high = 1; high < 0x8000; high++)
    if (guess[high]! - guess[high - 1]! > 2) throw new Error(`The view “${view.id}” is too steep for its table.`)
  return { thresholds, guess }
}
