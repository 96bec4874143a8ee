// Looks: lines of a recipe kept together, taken from shot to shot, as one line of another recipe.
import { BadInput } from '../formats/errors'
import { treatmentOf } from '../treatment/registry'
import { identifier, newDocument, newTreatment, type ShotDocument, type TreatmentSettings } from './document'
import { ofToday } from './migrate'
import { addRow, inOrder, rowsOf, type Rows, type Unplaced } from './rows'
import { slipsOf } from './slip'
import { setFrame, setRate } from './values'

/** What is kept, and written as text: the lines, the kept mattes that they name, and the shot's measures they are in. */
export interface Look {
  northmist: 'look'
  version: number
  name: string
  frame: ShotDocument['frame']
  rate: ShotDocument['rate']
  mattes: ShotDocument['mattes']
  lines: Rows<TreatmentSettings>
}
/** What is told of one that the server keeps, before it is laid. */
export interface KeptLook {
  id: string
  name: string
  picture: string | null
  /** How many. */
  lines: number
}
const MOST_CHARACTERS = 8 * 1048576
const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** The lines of a recipe that are on, as a look; those of looks among them in their place. Throws BadInput. */
export function lookOf(document: ShotDocument, recipe: Rows<TreatmentSettings>, name: string): Look {
  const lines = inOrder(recipe).flatMap(line => (line.on ? (line.lines ? unpacked(line) : [line]) : []))
  const look: Look = {
    northmist: 'look',
    version: document.version,
    name,
    frame: document.frame,
    rate: document.rate,
    mattes: {},
    lines: rowsOf<TreatmentSettings>(lines.map(line => ({ ...copyOf(line), id: identifier() }))),
  }
  // The kept mattes that its slips name, and those that these name
  for (let grown = true; grown;) {
    grown = false
    for (const { slip } of slipsOf(alone(look)))
      for (const term of Object.values(slip.terms))
        if (term.kind === 'kept' && document.mattes[term.matte] && !look.mattes[term.matte]) {
          look.mattes[term.matte] = copyOf(document.mattes[term.matte]!)
          grown = true
        }
  }
  return look
}
/** The lines of a look by themselves. Throws BadInput where it is not laid wholly: no row of lines is the same then. */
export function unpacked({ lines, strength, matte, name }: TreatmentSettings): TreatmentSettings[] {
  if (strength !== 1 || matte)
    throw new BadInput(`The look ${name} is laid at a strength or in a matte: its lines alone would not be the same.`)
  return inOrder(lines)
}

/** A shot of nothing but a look, to be checked and to be measured in. */
export const alone = ({ version, frame, rate, mattes, lines }: Look): ShotDocument => ({
  ...newDocument(frame.width, frame.height),
  version: version as ShotDocument['version'],
  rate,
  mattes,
  finish: lines,
})

/** Whether a text may be a look. */
const isLook = (text: string): boolean => /^\s*\{\s*"northmist"\s*:\s*"look"/.test(text.slice(0, 200))
/** Throws BadInput for what cannot be read; whether its values are valid is for the checks of `alone`. */
export function readLook(text: string): Look {
  if (text.length > MOST_CHARACTERS) throw new BadInput('A look is 8 MiB of text at most.')
  if (!isLook(text)) throw new BadInput('This is no look: it does not begin as one.')
  let told: Look
  try {
    told = JSON.parse(text) as Look
  } catch {
    throw new BadInput('This look is not whole.')
  }
  const { name, frame, lines, mattes } = told
  if (typeof name !== 'string' || !name.trim() || name.length > 200) throw new BadInput('This look has no name.')
  if (typeof lines !== 'object' || !lines || typeof mattes !== 'object' || !mattes || typeof frame !== 'object')
    throw new BadInput('This look holds no lines.')
  const today = ofToday(alone(told)) as ShotDocument
  return { ...told, version: today.version, mattes: today.mattes, lines: today.finish }
}
export const writeLook = (look: Look): string => `${JSON.stringify(look, null, 1)}\n`

/**
 * A look as one line for a shot, as large and as fast as that is; the mattes that it names come with it into the shot,
 * under new ids. strength: 0..1.
 */
export function laidLook(document: ShotDocument, look: Look, strength = 1): Unplaced<TreatmentSettings> {
  const sized = copyOf(alone(look))
  setFrame(sized, document.frame)
  setRate(sized, document.rate)
  const ids = new Map(Object.keys(sized.mattes).map(id => [id, identifier()]))
  for (const { slip } of slipsOf(sized))
    for (const term of Object.values(slip.terms))
      if (term.kind === 'kept') term.matte = ids.get(term.matte) ?? term.matte
  for (const { order: _order, ...matte } of inOrder(sized.mattes))
    addRow(document.mattes, { ...matte, id: ids.get(matte.id)! })
  return { ...newTreatment('look', {}), strength, name: look.name, lines: sized.finish }
}

/** What keeps lines from being a table of colours: what they do depends on more than a pixel's colour. In sentences. */
export function notOfColour(lines: Rows<TreatmentSettings>): string[] {
  return inOrder(lines).flatMap(line => {
    if (!line.on) return []
    const treatment = treatmentOf(line.kind)
    const { label, beside, reads, needs } = treatment
    if (line.lines) return notOfColour(line.lines)
    if (line.matte) return [`${label} works only where its matte says.`]
    if (beside || reads?.length || needs?.(line.values).length)
      return [`${label} depends on more than the colour of a pixel.`]
    return []
  })
}
