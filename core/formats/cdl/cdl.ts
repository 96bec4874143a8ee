// Grades as files: ASC CDL 1.2 (American Society of Cinematographers, "ASC Color Decision List Transfer Functions and
// Interchange Syntax"), as one correction (.cc), a collection of them (.ccc) or a decision list (.cdl).
import { XMLParser } from 'fast-xml-parser'
import { BadInput } from '../errors'

export interface ColorCorrection {
  id: string
  description: string
  slope: [number, number, number]
  offset: [number, number, number]
  power: [number, number, number]
  saturation: number
}

const MOST_BYTES = 4 * 1048576
const MOST = 5000
type Tags = Record<string, unknown>
const isTags = (value: unknown): value is Tags => typeof value === 'object' && value !== null && !Array.isArray(value)
const wrong = (what: string): never => {
  throw new BadInput(`This grade cannot be read: ${what}.`)
}

/** Every correction of a file, in its order. Throws BadInput. */
export function readCdl(bytes: Uint8Array): ColorCorrection[] {
  if (bytes.length > MOST_BYTES) wrong('it is larger than 4 MiB')
  const text = new TextDecoder().decode(bytes)
  if (/<!(DOCTYPE|ENTITY)/i.test(text)) wrong('it declares entities, which no grade needs')
  let tree: unknown
  try {
    tree = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '@',
      processEntities: false,
      removeNSPrefix: true,
      parseTagValue: false,
      parseAttributeValue: false,
    }).parse(text, true)
  } catch (error) {
    wrong(`it is not XML (${(error as Error).message})`)
  }
  const found: ColorCorrection[] = []
  const visit = (node: unknown, depth: number): void => {
    if (depth > 30) wrong('it is nested more than 30 deep')
    for (const [name, held] of Object.entries(isTags(node) ? node : {}))
      for (const one of Array.isArray(held) ? held : [held])
        if (name === 'ColorCorrection') {
          if (found.length >= MOST) wrong(`it holds more than ${MOST} corrections`)
          found.push(correctionOf(one, found.length + 1))
        } else visit(one, depth + 1)
  }
  visit(tree, 0)
  if (!found.length) wrong('it holds no ColorCorrection')
  return found
}

function correctionOf(node: unknown, number: number): ColorCorrection {
  const tags = isTags(node) ? node : {}
  const id = typeof tags['@id'] === 'string' ? tags['@id'] : ''
  const what = id ? `correction “${id}”` : `correction ${number}`
  // Some write ASC_SOP and ASC_SAT, as the first drafts had them
  const sop = tags.SOPNode ?? tags.ASC_SOP
  const sat = tags.SatNode ?? tags.SATNode ?? tags.ASC_SAT
  const numbers = (holder: unknown, name: string, count: number, standing: number, least: number): number[] => {
    const value = isTags(holder) ? holder[name] : undefined
    if (value === undefined) return Array<number>(count).fill(standing)
    const list = String(value).trim().split(/\s+/).map(Number)
    if (list.length !== count || !list.every(Number.isFinite))
      wrong(`${name} of ${what} should hold ${count} numbers, not “${String(value).slice(0, 60)}”`)
    const low = list.find(one => one < least)
    if (low !== undefined) wrong(`${name} of ${what} may not be below ${least}; it is ${low}`)
    return list
  }
  if (!sop && !sat) wrong(`${what} has neither slope, offset and power nor saturation`)
  type Three = [number, number, number]
  const description = [tags.Description, isTags(sop) ? sop.Description : undefined]
    .flat()
    .find(one => typeof one === 'string')
  return {
    id,
    description: String(description ?? '').slice(0, 400),
    slope: numbers(sop, 'Slope', 3, 1, 0) as Three,
    offset: numbers(sop, 'Offset', 3, 0, -Infinity) as Three,
    power: numbers(sop, 'Power', 3, 1, 1e-6) as Three,
    saturation: numbers(sat, 'Saturation', 1, 1, 0)[0]!,
  }
}

const escaped = (text: string): string =>
  text.replace(/[<>&"]/g, sign => ({ '<': '&lt;', '>': '&gt;', '&': '&amp;', '"': '&quot;' })[sign]!)
const said = (numbers: readonly number[]): string => numbers.map(number => String(Number(number.toFixed(7)))).join(' ')

/** One correction as a .cc file. */
export const writeCc = ({ id, description, slope, offset, power, saturation }: ColorCorrection): string =>
  `<?xml version="1.0" encoding="UTF-8"?>
<ColorCorrection id="${escaped(id)}">
  <SOPNode>
${description ? `    <Description>${escaped(description)}</Description>\n` : ''}    <Slope>${said(slope)}</Slope>
    <Offset>${said(offset)}</Offset>
    <Power>${said(power)}</Power>
  </SOPNode>
  <SatNode>
    <Saturation>${said([saturation])}</Saturation>
  </SatNode>
</ColorCorrection>
`
