// Whether the passes of the open shot still stand.
import { createPinia, setActivePinia } from 'pinia'
import { expect, it } from 'vitest'
import { newDocument } from '../../core/shot/document'
import { useShot } from './shot'

it('passes are stale when the scene changed since, and only when it is known what they are of', () => {
  setActivePinia(createPinia())
  const shot = useShot()
  shot.document = newDocument()
  expect(shot.stalePasses).toBe(false)
  shot.document!.passes.file = {
    blob: 'a'.repeat(64),
    name: 'p',
    width: 1,
    height: 1,
    passes: [],
    objects: [],
    materials: [],
    of: '',
  }
  expect(shot.stalePasses).toBe(false)
  shot.document!.passes.file!.of = 'another'
  expect(shot.stalePasses).toBe(true)
})
