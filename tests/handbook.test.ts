// The handbook's tables are what is declared: `WRITE=1 npx vitest run tests/handbook.test.ts` writes them anew.
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import type { EntryFields } from '../core/declare/values'
import { LAYER_KINDS } from '../core/layer/registry'
import { MATTES } from '../core/matte/registry'
import { REFINERS } from '../core/matte/refine/registry'
import { TREATMENTS } from '../core/treatment/registry'

const path = new URL('../docs/handbook.md', import.meta.url)

/** After a colon, where there is any. */
const helpOf = (help: string | undefined): string => (help ? `: ${help}` : '')
function valueWords(fields: EntryFields): string {
  return Object.entries(fields)
    .map(([name, field]) => {
      if (field.kind === 'list')
        return `**${field.label}** ${field.bend ? 'points of a curve' : `up to ${field.most} colours`}${helpOf(field.help)}`
      if (field.kind === 'choice') return `**${field.label}** ${field.choices.join(' or ')}${helpOf(field.help)}`
      const [low, high] = field.kind === 'number' ? (field.hand ?? [field.low, field.high]) : field.hand
      const unit = field.kind === 'number' && field.unit ? ` ${field.unit}` : ''
      const label = field.kind === 'number' ? field.label : `${name} (${field.parts.join(', ')})`
      return `**${label}** ${low} to ${high}${unit}${field.neutral === undefined ? '' : `, neutral ${field.neutral}`}${helpOf(field.help)}`
    })
    .join('<br>')
}
/** What it does to the demo, where that is shown (npm run screenshots -- choose mattes, npm run entries). */
function picture(what: string, id: string): string {
  const name = `entries/${what}-${id}.jpg`
  return existsSync(new URL(name, path)) ? `![](${name})` : ''
}
const table = (
  what: string,
  entries: readonly { id: string; label: string; help: string; values: EntryFields }[],
  pictured?: string,
): string =>
  [
    `| ${what} |${pictured ? ' |' : ''} what it does | values |`,
    `|---|${pictured ? '---|' : ''}---|---|`,
    ...entries.map(
      ({ id, label, help, values }) =>
        `| ${label} (\`${id}\`) |${pictured ? ` ${picture(pictured, id)} |` : ''} ${help} | ${valueWords(values)} |`,
    ),
  ].join('\n')

it.each([
  ['treatments', table('treatment', TREATMENTS, 'treatment')],
  ['mattes', table('matte', MATTES, 'matte')],
  ['refiners', table('what refines a matte', REFINERS)],
  ['layers', table('layer', LAYER_KINDS)],
])('the table of %s is what is declared', (name, made) => {
  const text = readFileSync(path, 'utf8')
  const [start, end] = [`<!-- ${name} -->`, `<!-- end of ${name} -->`]
  const from = text.indexOf(start) + start.length
  const to = text.indexOf(end)
  expect(text.indexOf(start)).toBeGreaterThan(0)
  expect(to).toBeGreaterThan(from)
  if (process.env.WRITE) writeFileSync(path, `${text.slice(0, from)}\n${made}\n${text.slice(to)}`)
  else expect(text.slice(from, to).trim()).toBe(made)
})

it('has a picture of everything it tells of', () => {
  const without = (what: string, entries: readonly { id: string }[]): string[] =>
    entries.filter(({ id }) => !picture(what, id)).map(({ id }) => id)
  expect(without('treatment', TREATMENTS)).toEqual([])
  expect(without('matte', MATTES)).toEqual([])
})
