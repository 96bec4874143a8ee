// A fixed short part of npm run fuzz: the same damaged files each time.
import { expect, it } from 'vitest'
import { fuzz } from '../tools/damagedFiles'

it('damaged files of every kind are read or refused with a sentence, soon and in bounded memory', async () => {
  const { read, refused } = await fuzz({ files: 900 }, 20261127)
  expect(read + refused).toBe(900)
  // Neither all nor none: the damage is real, and what is whole is read
  expect(refused).toBeGreaterThan(200)
  expect(read).toBeGreaterThan(50)
}, 300000)
