// A drawing on a flat place of footage, against the pinhole's own projection of where the ray through it meets the plane.
import { describe, expect, it } from 'vitest'
import { project, rayThrough } from '../core/match/project'
import type { Camera } from '../core/scene/scene'
import { newDocument, type PictureLayer, type ShotDocument } from '../core/shot/document'
import { addRender } from '../core/shot/layers'
import { cameraAt } from '../core/shot/scene'
import { documentFaults } from '../shared/validate'
import { lit, passFile, type Plane } from './compose/passes'
import { add, files, useLayers } from './layeredShot'
import { exrOf, lightPicture, shown } from './stuckShot'

useLayers()
const [WIDTH, HEIGHT] = [192, 144]

describe('on a flat place of footage', () => {
  const move = (frame: number): Record<string, number> => ({ x: 0.03 * frame, z: -0.03 * frame, heading: -0.5 * frame })
  function footage(onto: string, more: Record<string, unknown>): ShotDocument {
    const document = newDocument(WIDTH, HEIGHT)
    document.build.layers = {}
    document.frames = { first: 1, last: 60 } as never
    const camera = document.scene.camera as unknown as Record<string, unknown>
    for (const [name, at] of Object.entries(move(1)))
      camera[name] = {
        keys: [1, 41].map(frame => ({ frame, value: frame === 1 ? at : move(41)[name], ease: 'linear' })),
      }
    const stuck = add(document, 'stuck', { id: 'stuck', placed: 5, appears: 1, onto, ...more })
    const spot = (x: number, y: number): number => Number(Math.hypot(x + 0.5 - 80, y + 0.5 - 100) < 5)
    const bytes = exrOf([WIDTH, HEIGHT], { A: spot, R: spot, G: spot, B: spot })
    const picture = lightPicture(files.keep(bytes), WIDTH, HEIGHT)
    add(document, 'picture', {
      within: stuck,
      picture,
      x: WIDTH / 2,
      y: HEIGHT / 2,
      scale: 1,
      rotation: 0,
      distance: 1,
    })
    expect(documentFaults(document)).toEqual([])
    return document
  }
  it.each([
    ['the ground', { y: 0.2 }],
    ['a wall of the plate', { x: 1, z: -6, turn: 25 }],
  ] as const)('stays where it is on %s, by the pinhole’s own projection', async (onto, more) => {
    const document = footage(onto, more)
    const seenBy = (frame: number): Camera => cameraAt(document.scene.camera, frame)
    // Where the ray through the spot meets the plane, and where that is seen on another frame
    const aspect = WIDTH / HEIGHT
    const [eye, way] = [seenBy(5).matrix.slice(12, 15), rayThrough(seenBy(5), aspect, 80 / WIDTH, 100 / HEIGHT)]
    const angle = (25 * Math.PI) / 180
    const [normal, from] =
      onto === 'the ground'
        ? [
            [0, 1, 0],
            [0, 0.2, 0],
          ]
        : [
            [Math.sin(angle), 0, Math.cos(angle)],
            [1, 0, -6],
          ]
    const dotted = (a: readonly number[], b: readonly number[]): number =>
      a.reduce((sum, value, i) => sum + value * b[i]!, 0)
    const far =
      dotted(
        normal!,
        from!.map((value, i) => value - eye[i]!),
      ) / dotted(normal!, way)
    const point = [0, 1, 2].map(i => eye[i]! + far * way[i]!) as [number, number, number]
    for (const frame of [1, 5, 12, 22]) {
      const pixels = await shown(document, frame)
      let [x, y, sum] = [0, 0, 0]
      for (let i = 0; i < WIDTH * HEIGHT; i++) {
        const alpha = pixels[i * 4 + 3]!
        x += alpha * ((i % WIDTH) + 0.5)
        y += alpha * (Math.floor(i / WIDTH) + 0.5)
        sum += alpha
      }
      const { u, v } = project(seenBy(frame), aspect, point)
      // All of the spot is in the frame
      expect(u * WIDTH).toBeGreaterThan(8)
      expect(sum, `frame ${frame}`).toBeGreaterThan(20)
      expect(Math.hypot(x / sum - u * WIDTH, y / sum - v * HEIGHT), `frame ${frame}`).toBeLessThan(0.5)
    }
    // It has gone a way
    const [one, other] = [project(seenBy(1), aspect, point), project(seenBy(22), aspect, point)]
    expect(Math.hypot((one.u - other.u) * WIDTH, (one.v - other.v) * HEIGHT)).toBeGreaterThan(15)
  })

  it('is hidden by a render before it, also where it is of one', async () => {
    const document = footage('the ground', { y: 0.2 })
    const before = passFile(files, [WIDTH, HEIGHT], { A: () => 1, 'depth.Z': () => 0.5, ...lit(() => 0.3) })
    const render = addRender(document, before, 'before it')
    Object.assign(document.build.layers['stuck']!, { of: render })
    const pixels = await shown(document, 5)
    const i = (100 * WIDTH + 80) * 4
    expect(pixels[i]).toBeCloseTo(0.3, 5)
    Object.assign(document.build.layers[render]!, { on: false })
    expect((await shown(document, 5))[i]).toBeCloseTo(1, 2)
  })
  it('is not seen beyond the horizon', async () => {
    const document = footage('the ground', { y: 0.2 })
    // All of the frame is drawn on
    const one: Plane = () => 1
    const white = exrOf([8, 8], { A: one, R: one, G: one, B: one })
    const drawn = Object.values(document.build.layers).find(({ kind }) => kind === 'picture')! as PictureLayer
    Object.assign(drawn.picture, { blob: files.keep(white), width: 8, height: 8 })
    drawn.scale = 60
    const pixels = await shown(document, 12)
    // The camera looks level from 1.62 m: the horizon is the middle
    const alpha = (y: number): number => pixels[(y * WIDTH + WIDTH / 2) * 4 + 3]!
    for (let y = 0; y < HEIGHT / 2 - 1; y++) expect(alpha(y)).toBe(0)
    expect(alpha(HEIGHT - 10)).toBeCloseTo(1, 5)
  })
})
