// Pictures of OpenEXR files, and several parts of one put together into one picture.
import { BadInput } from '../errors'
import type { ExrAttribute } from './attributes'
import type { Compression } from './block'
import { boxHeight, boxWidth, type Box } from './header'
import type { ExrType } from './planes'

export interface ExrChannel {
  name: string
  type: ExrType
  /** Row by row over the data window: codes of halves, floats, or unsigned integers. */
  data: Uint16Array | Float32Array | Uint32Array
  linear: boolean
}
export interface ExrImage {
  dataWindow: Box
  displayWindow: Box
  compression: Compression
  channels: ExrChannel[]
  /** Everything but channels, compression, windows and lineOrder. */
  attributes: ExrAttribute[]
}
export interface ExrPart {
  name?: string
  deep: boolean
  tiled: boolean
  image: ExrImage
}

/** What one file is read into at most. */
export const MAXIMUM_BYTES = 6 * 2 ** 30

export const valuesFor = (type: ExrType, count: number): ExrChannel['data'] =>
  type === 'half' ? new Uint16Array(count) : type === 'float' ? new Float32Array(count) : new Uint32Array(count)

type Named = { name?: string; channels: readonly { name: string }[] }
export const aroundAll = (boxes: readonly Box[]): Box =>
  boxes.reduce((all, box) => ({
    xMin: Math.min(all.xMin, box.xMin),
    yMin: Math.min(all.yMin, box.yMin),
    xMax: Math.max(all.xMax, box.xMax),
    yMax: Math.max(all.yMax, box.yMax),
  }))

/** Channels of later parts without a layer of their own get the part's name; no two have the same. */
export function namesTogether(parts: readonly Named[]): string[][] {
  const taken = new Set<string>()
  return parts.map(({ name: partName, channels }, index) =>
    channels.map(channel => {
      let name = index > 0 && !channel.name.includes('.') && partName ? `${partName}.${channel.name}` : channel.name
      for (let count = 2; taken.has(name); count++)
        name = `${partName ?? `part ${index + 1}`}${count > 2 ? ` ${count - 1}` : ''}.${channel.name}`
      taken.add(name)
      return name
    }),
  )
}
export function attributesTogether(parts: readonly { attributes: ExrAttribute[] }[]): ExrAttribute[] {
  const found = new Map<string, ExrAttribute>()
  for (const { attributes } of parts)
    for (const attribute of attributes) if (!found.has(attribute.name)) found.set(attribute.name, attribute)
  return [...found.values()]
}
/** Throws BadInput where all parts, each as large as a window, would take more than is read. */
export function checkTogether(window: Box, parts: readonly Named[]): void {
  if (
    boxWidth(window) * boxHeight(window) * 4 * parts.reduce((sum, part) => sum + part.channels.length, 0) >
    MAXIMUM_BYTES
  )
    throw new BadInput('The parts of this OpenEXR file lie too far apart to be one picture, or it is too large.')
}

/** Several parts as one picture; smaller windows lie in the whole. */
export function together(parts: readonly ExrPart[]): ExrImage {
  const first = parts[0]!.image
  const named = parts.map(({ name, image: { channels } }) => ({ name, channels }))
  if (parts.length === 1) return first
  const window = aroundAll(parts.map(({ image }) => image.dataWindow))
  const names = namesTogether(named)
  checkTogether(window, named)
  const channels = parts.flatMap(({ image }, index) =>
    image.channels.map((channel, c) => ({
      ...channel,
      name: names[index]![c]!,
      data: inWindow(channel, image.dataWindow, window),
    })),
  )
  return { ...first, dataWindow: window, channels, attributes: attributesTogether(parts.map(({ image }) => image)) }
}

/** Values of a box where another lies: what it does not cover is 0. */
export function inWindow({ type, data }: ExrChannel, own: Box, window: Box): ExrChannel['data'] {
  if (own.xMin === window.xMin && own.yMin === window.yMin && own.xMax === window.xMax && own.yMax === window.yMax)
    return data
  const width = boxWidth(window)
  const across = boxWidth(own)
  const out = valuesFor(type, width * boxHeight(window))
  const left = Math.max(own.xMin, window.xMin)
  const right = Math.min(own.xMax, window.xMax) + 1
  if (left < right)
    for (let y = Math.max(own.yMin, window.yMin); y <= Math.min(own.yMax, window.yMax); y++) {
      const row = (y - own.yMin) * across - own.xMin
      out.set(data.subarray(row + left, row + right), (y - window.yMin) * width + left - window.xMin)
    }
  return out
}
