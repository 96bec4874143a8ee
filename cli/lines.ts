// Lines of treatments and mattes as one writes them: 'ID name=value name=value'.
import { BadInput } from '../core/formats/errors'
import { valuesAt } from '../core/declare/values'
import { MATTES } from '../core/matte/registry'
import { REFINERS, refinerOf } from '../core/matte/refine/registry'
import type { MatteTerm, TreatmentSettings } from '../core/shot/document'
import { identifier } from '../core/shot/document'
import { JOINS, type Join } from '../core/matte/join'
import type { RefineSettings } from '../core/shot/schema/matte'
import { LAMPS } from '../core/treatment/bright'
import { SURROUNDINGS } from '../core/treatment/fog'
import { TREATMENTS } from '../core/treatment/registry'
import { asksTable } from '../core/treatment/treatment'
import { valueAt } from '../core/time/curve'
import { list } from './arguments'
import { drawnLine } from './drawnLine'
import { lineOf, numberOf, switchOf, valuesOf } from './said'

/** A treatment of a recipe. 'exposure stops=1 strength=0.5' */
export function treatmentLine(text: string, number: number): TreatmentSettings {
  const line = lineOf(
    text,
    'treatment',
    // A look is lines of its own
    TREATMENTS.filter(({ lined }) => !lined).map(({ id }) => id),
  )
  const treatment = TREATMENTS.find(({ id }) => id === line.id)!
  const { values: fields, tabled } = treatment
  const from = tabled === 'picture' ? 'picture' : 'table'
  const table = line.given.get(from)
  const values = valuesOf(fields, line, ['strength', ...(tabled ? [from] : [])])
  if (!table && asksTable(treatment, valuesAt(fields, values, 0, valueAt)))
    throw new BadInput(
      `${line.id} takes a ${tabled === 'picture' ? 'picture: picture=FILE.png' : 'table: table=FILE.cube'}`,
    )
  for (const [name, said] of [
    ['feeds', LAMPS],
    ['scatters', SURROUNDINGS],
  ])
    if (values[name!] === said) throw new BadInput(`${name}=${said} is of a shot: here no scene is known`)
  const strength = line.given.get('strength')
  return {
    id: `line ${number}`,
    order: String(number).padStart(6, '0'),
    kind: line.id,
    on: true,
    strength: strength === undefined ? 1 : numberOf(strength, 'strength', 0, 1),
    matte: null,
    // The command line reads files by their names
    ...(table && tabled ? { table: { blob: '', name: table } } : {}),
    values,
  }
}

const joinOf = (text = 'also'): Join => {
  if (!JOINS.includes(text as Join)) throw new BadInput(`join is one of ${JOINS.join(', ')}, not “${text}”`)
  return text as Join
}

/** A line that refines the whole of a matte: 'grow pixels=2', 'fill size=12'. */
export function refineLine(text: string): Omit<RefineSettings, 'order'> {
  const line = lineOf(
    text,
    'way to refine a matte',
    REFINERS.map(({ id }) => id),
  )
  return { id: identifier(), kind: line.id, on: true, values: valuesOf(refinerOf(line.id).values, line, []) }
}

/**
 * A line of a matte: 'depth near=2 far=9 soft=1', 'names names=bell,frame of=objects seen=through invert=1'; join=not goes
 * on from the lines before it.
 */
export function matteLine(text: string): MatteTerm {
  const line = lineOf(
    text,
    'matte',
    MATTES.map(({ id }) => id),
  )
  const own = { join: joinOf(line.given.get('join')), on: true, invert: switchOf(line.given.get('invert'), 'invert') }
  if (line.id === 'shape' || line.id === 'brush') return { ...drawnLine(line), ...own }
  if (line.id !== 'names') {
    const { values: fields, pictured } = MATTES.find(({ id }) => id === line.id)!
    const others = ['invert', 'join', ...(pictured ? ['picture'] : [])]
    const values = valuesOf(fields, line, others)
    const name = line.given.get('picture')
    if (pictured?.(values) && !name) throw new BadInput(`${line.id} takes a picture: picture=FILE`)
    return { kind: line.id, values, ...(name ? { picture: { name } } : {}), ...own } as MatteTerm
  }
  const known = ['names', 'of', 'seen', 'invert', 'join']
  for (const name of line.given.keys())
    if (!known.includes(name)) throw new BadInput(`names has no value “${name}”; it has ${known.join(', ')}`)
  const of = line.given.get('of') ?? 'objects'
  const seen = line.given.get('seen') ?? 'straight'
  if (of !== 'objects' && of !== 'materials' && of !== 'assets')
    throw new BadInput(`of is objects, materials or assets, not “${of}”`)
  if (seen !== 'straight' && seen !== 'through' && seen !== 'mirrored')
    throw new BadInput(`seen is straight, through or mirrored, not “${seen}”`)
  const names = list(line.given.get('names') ?? '')
  if (!names.length) throw new BadInput('a matte of names says them: names=NAME,NAME')
  return { kind: 'names', names, of, seen, ...own }
}
