// The handbook's page of passes knows every pass, and its pictures are there.
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import { PASSES } from '../core/render/passes'

const page = readFileSync('docs/passes.md', 'utf8')

it.each(PASSES.map(pass => [pass.id, pass.channels[0]] as const))(
  '%s has its picture and its channels',
  (id, channel) => {
    expect(page).toContain(`passes/${id}.jpg`)
    expect(existsSync(`docs/passes/${id}.jpg`)).toBe(true)
    // Of what is seen behind glass and in mirrors the channels stand together
    if (channel && !/^(through|mirrored)_/.test(id) && id !== 'beauty')
      expect(page).toContain(channel.replace(/\.[^.]*$/, ''))
  },
)

it('no picture is left over, and the README counts them', () => {
  expect(
    readdirSync('docs/passes')
      .map(file => file.replace('.jpg', ''))
      .sort(),
  ).toEqual(PASSES.map(pass => pass.id).sort())
  expect(readFileSync('README.md', 'utf8')).toContain(`[${PASSES.length} passes](docs/passes.md)`)
})
