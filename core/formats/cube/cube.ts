// .cube look-up tables: text with a size, a domain, and one colour a line (as written by grading tools; OpenColorIO
// reads the same).
import type { Lut } from '../../colour/lut'
import { BadInput } from '../errors'

const MOST_BYTES = 64 * 1048576
const MOST_3D = 129
const MOST_1D = 65536

/** Whether a file begins like one. */
export function isCube(head: Uint8Array): boolean {
  const text = new TextDecoder().decode(head.subarray(0, 4096))
  return /^\s*LUT_[13]D_SIZE\s+\d+/m.test(text) && !text.includes('\0')
}

/** Throws BadInput with the line that is wrong. */
export function readCube(bytes: Uint8Array): Lut {
  const wrong = (what: string): never => {
    throw new BadInput(`This .cube table cannot be read: ${what}.`)
  }
  if (bytes.length > MOST_BYTES) wrong('it is larger than 64 MiB')
  const lines = new TextDecoder().decode(bytes).split(/\r?\n/)
  let kind: Lut['kind'] | undefined
  let size = 0
  let data = new Float32Array(0)
  let filled = 0
  const low: Lut['low'] = [0, 0, 0]
  const high: Lut['high'] = [1, 1, 1]
  const numbers = (words: string[], count: number, line: number): number[] => {
    const list = words.map(Number)
    if (list.length !== count || words.some(word => word === '') || !list.every(Number.isFinite))
      wrong(`line ${line} should hold ${count} numbers`)
    return list
  }
  lines.forEach((text, i) => {
    const bare = text.replace(/#.*$/, '').trim()
    const line = i + 1
    if (!bare) return
    const [word, ...rest] = bare.split(/\s+/) as [string, ...string[]]
    if (word === 'TITLE') return
    if (word === 'LUT_1D_SIZE' || word === 'LUT_3D_SIZE') {
      if (kind) wrong('it has two sizes; a shaper before a cube is not read')
      kind = word === 'LUT_1D_SIZE' ? '1d' : '3d'
      size = numbers(rest, 1, line)[0]!
      if (!Number.isInteger(size) || size < 2 || size > (kind === '1d' ? MOST_1D : MOST_3D))
        wrong(`a size of ${rest[0]} is outside 2 to ${kind === '1d' ? MOST_1D : MOST_3D}`)
      data = new Float32Array((kind === '1d' ? size : size ** 3) * 3)
    } else if (word === 'DOMAIN_MIN')
      numbers(rest, 3, line).forEach((value, c) => {
        low[c] = value
      })
    else if (word === 'DOMAIN_MAX')
      numbers(rest, 3, line).forEach((value, c) => {
        high[c] = value
      })
    else if (word === 'LUT_1D_INPUT_RANGE' || word === 'LUT_3D_INPUT_RANGE') {
      const [a, b] = numbers(rest, 2, line)
      low.fill(a!)
      high.fill(b!)
    } else if (/^[-+.\d]/.test(word)) {
      if (!kind) wrong(`line ${line} holds a colour before any size`)
      if (filled >= data.length) wrong(`line ${line} is one colour too many for its size of ${size}`)
      data.set(numbers([word, ...rest], 3, line), filled)
      filled += 3
    } else wrong(`line ${line} says “${word.slice(0, 30)}”, which is not known`)
  })
  if (!kind) return wrong('it has no size')
  if (filled < data.length) wrong(`it holds ${filled / 3} colours where its size asks for ${data.length / 3}`)
  if (low.some((value, c) => !(high[c]! > value))) wrong('its domain ends before it begins')
  return { kind, size, low, high, data }
}

/** As text that readCube and other tools read. */
export function writeCube({ kind, size, low, high, data }: Lut, title: string): string {
  const lines = [
    `TITLE "${title.replace(/["\r\n]/g, ' ')}"`,
    `LUT_${kind === '1d' ? '1D' : '3D'}_SIZE ${size}`,
    `DOMAIN_MIN ${low.join(' ')}`,
    `DOMAIN_MAX ${high.join(' ')}`,
  ]
  for (let i = 0; i < data.length; i += 3) lines.push([0, 1, 2].map(c => Number(data[i + c]!.toPrecision(7))).join(' '))
  return `${lines.join('\n')}\n`
}
