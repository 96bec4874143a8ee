import type { EntryFields } from '../core/declare/values'
import { firstValues } from '../core/declare/values'
import { BadInput } from '../core/formats/errors'
import { DELIVERY_ENDINGS, MOVIE_ENDINGS } from '../core/compose/deliveries'
import { BLEND_MODES } from '../core/plan/modes'
import { LAYER_KINDS } from '../core/layer/registry'
import type { MatteKind } from '../core/matte/matte'
import { MATTES } from '../core/matte/registry'
import { REFINERS } from '../core/matte/refine/registry'
import { PASSES } from '../core/render/passes'
import { TREATMENTS } from '../core/treatment/registry'
import type { Treatment } from '../core/treatment/treatment'
import { parse } from './arguments'
import type { Command } from './command'

interface Value {
  id: string
  label: string
  help: string
  low?: number
  high?: number
  choices?: readonly (string | number)[]
  unit: string
  neutral?: number | string
  first: number | number[] | string | number[][]
  count: number
}
interface Entry {
  id: string
  label: string
  help: string
  /** What it reads beside the colour. */
  reads?: readonly string[]
  values?: Value[]
}

function valuesOf(fields: EntryFields): Value[] {
  const first = firstValues(fields)
  return Object.entries(fields).map(([id, field]) => ({
    id,
    label: field.kind === 'values' ? `${id} (${field.parts.join(', ')})` : (field.label ?? id),
    help: field.help ?? '',
    ...(field.kind === 'choice'
      ? { choices: field.choices }
      : field.kind === 'list'
        ? {}
        : { low: field.low, high: field.high }),
    unit: field.kind === 'number' ? field.unit : '',
    neutral: field.kind === 'list' ? undefined : field.neutral,
    first: first[id]!,
    count: field.kind === 'values' ? field.parts.length : 1,
  }))
}
const entryOf = ({ id, label, help, reads, values }: Treatment | MatteKind): Entry => ({
  id,
  label,
  help,
  reads,
  values: valuesOf(values),
})

const REGISTRIES: Record<string, () => Entry[]> = {
  treatments: () => TREATMENTS.map(entryOf),
  mattes: () => MATTES.map(entryOf),
  refiners: () => REFINERS.map(({ id, label, help, values }) => ({ id, label, help, values: valuesOf(values) })),
  layers: () => [
    ...LAYER_KINDS.map(({ id, label, help, values }) => ({ id, label, help, values: valuesOf(values) })),
    ...BLEND_MODES.map(({ id, label }) => ({ id: `mode ${id}`, label, help: 'A blending mode of layers.' })),
  ],
  passes: () =>
    PASSES.map(({ id, label, help, channels }) => ({
      id,
      label,
      help: `${help}${channels.length ? ` Channels ${channels.join(', ')}.` : ''}`,
    })),
  formats: () =>
    Object.entries({ ...DELIVERY_ENDINGS, ...MOVIE_ENDINGS }).map(([id, ending]) => ({
      id,
      label: `.${ending}`,
      help: 'Written.',
    })),
}

const inWords = ({ id, label, help, low, high, choices, unit, neutral, first }: Value): string =>
  `      ${id}: ${label}, ${choices ? choices.join(' or ') : low === undefined ? 'points X,Y:X,Y' : `${low} to ${high}`}${unit ? ` ${unit}` : ''}; ${
    neutral === undefined ? '' : `neutral ${neutral}, `
  }a new one ${Array.isArray(first) ? first.join(Array.isArray(first[0]) ? ':' : ',') : first}. ${help}`

export const listing: Command = {
  usage: `list [${Object.keys(REGISTRIES).join('|')}] [--json]`,
  help: 'What there is, with what each value means: its range, unit, neutral value and what a new one begins with.',
  async run(args) {
    const json = args.includes('--json')
    const words = args.filter(arg => arg !== '--json')
    const { files } = parse(words, words.length ? ['WHAT'] : [], [])
    const which = files[0]
    if (which !== undefined && !Object.hasOwn(REGISTRIES, which))
      throw new BadInput(`there is no list of “${which}”; there are ${Object.keys(REGISTRIES).join(', ')}`)
    const chosen = Object.entries(REGISTRIES)
      .filter(([name]) => which === undefined || name === which)
      .map(([name, entries]) => [name, entries()] as const)
    process.stdout.write(
      json
        ? `${JSON.stringify(Object.fromEntries(chosen), null, 1)}\n`
        : chosen
            .map(
              ([name, entries]) =>
                `${name}\n${entries
                  .map(
                    ({ id, label, help, reads = [], values = [] }) =>
                      `  ${id}: ${label}. ${help}${reads.length ? ` Reads ${reads.join(', ')}.` : ''}\n${values.map(value => `${inWords(value)}\n`).join('')}`,
                  )
                  .join('')}`,
            )
            .join('\n'),
    )
  },
}
