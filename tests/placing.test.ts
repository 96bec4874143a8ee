// Placing things: pins, groups, names, copies, stand-ins drawn on the ground; camera tracks; the sun in an environment;
// shadows trimmed by catcher.
import { namesTerm, slipOf } from '../core/shot/slip'
import { addRow, inOrder, rowsOf, type Unplaced } from '../core/shot/rows'
import { ownRender } from '../core/shot/tree'
import { describe, expect, it } from 'vitest'
import { Drawing } from '../app/composables/drawing'
import { pinObject } from '../core/match/pin'
import { besideFoot, heightOver, rectangleOnGround } from '../core/match/ground'
import { project } from '../core/match/project'
import { findSun, mainLightOf } from '../core/scene/environmentSun'
import {
  compose,
  multiply,
  rotationFromDegrees,
  transformPoint,
  type Matrix4,
  type Vector3,
} from '../core/scene/vector'
import { DEFAULT_CAMERA, newDocument, newTreatment, type PrintSettings, type ShotDocument } from '../core/shot/document'
import {
  copyObject,
  addStandIn,
  groupOf,
  moveTogether,
  objectsOf,
  removeObject,
  renameObject,
} from '../core/shot/objects'
import { lensOf, workingFrame } from '../core/shot/lens'
import { animatedValues } from '../core/shot/values'
import { overscanOf } from '../core/match/lens'
import { lightAt, skyDirection } from '../core/shot/lamps'
import { cameraAt, printAt, sceneAt } from '../core/shot/scene'
import { valueAt, type Animatable } from '../core/time/curve'
import { documentFaults } from '../shared/validate'
import { material, object, ground, scene } from './scenes'

const camera = cameraAt({ ...DEFAULT_CAMERA, y: 1.7, pitch: -6, heading: 20, bank: 1 }, 1)
const ASPECT = 1.5
const placedAt = (heading: number, tilt: number, bank: number, place: Vector3, scale = 1): Matrix4 => {
  const m = multiply(rotationFromDegrees(heading, tilt, bank), compose([0, 0, 0], [0, 0, 0, 1], [scale, scale, scale]))
  m[12] = place[0]
  m[13] = place[1]
  m[14] = place[2]
  return m
}

describe('pins', () => {
  const corners: Vector3[] = [
    [-0.5, 0, 0.4],
    [0.5, 0, 0.4],
    [0.5, 1.2, 0.4],
    [-0.5, 1.2, -0.4],
    [0.5, 0, -0.4],
  ]
  const truth = placedAt(-10, 4, -3, [-2.2, 0.3, -6.5], 1.2)
  const before = placedAt(15, 0, 0, [-1.6, 0, -6], 1)
  const pins = (at: Matrix4, count: number) =>
    corners.slice(0, count).map(local => {
      const { u, v } = project(camera, ASPECT, transformPoint(at, local))
      return { local, u, v }
    })
  it('five give place, attitude and size, as projected', () => {
    const found = pinObject(camera, ASPECT, before, pins(truth, 5), { scaling: true, turning: true })
    // Size and distance go together for small things: what is seen is what must agree
    expect(Math.max(...found.errors)).toBeLessThan(2e-4)
    const seen = corners.map(local => project(camera, ASPECT, transformPoint(found.matrix, local)))
    const wanted = corners.map(local => project(camera, ASPECT, transformPoint(truth, local)))
    seen.forEach((p, i) => expect(Math.hypot(p.u - wanted[i]!.u, p.v - wanted[i]!.v)).toBeLessThan(3e-4))
  })
  it('four of a thing of known size give its place to a centimetre and its turn to a degree', () => {
    const same = placedAt(-10, 4, -3, [-2.2, 0.3, -6.5])
    const found = pinObject(camera, ASPECT, before, pins(same, 4), { scaling: false, turning: true })
    expect(
      Math.hypot(found.matrix[12]! - same[12]!, found.matrix[13]! - same[13]!, found.matrix[14]! - same[14]!),
    ).toBeLessThan(0.02)
    expect(found.matrix[0]! * same[0]! + found.matrix[1]! * same[1]! + found.matrix[2]! * same[2]!).toBeGreaterThan(
      Math.cos(Math.PI / 180),
    )
    expect(found.scale).toBe(1)
  })
  it('one slides it at its distance and leaves its turn', () => {
    const moved = placedAt(15, 0, 0, [-1.2, 0.4, -6])
    const [pin] = pins(moved, 1)
    const found = pinObject(camera, ASPECT, before, [pin!], { scaling: true, turning: true })
    expect(found.errors[0]).toBeLessThan(1e-3)
    expect(found.matrix.slice(0, 12)).toEqual(before.slice(0, 12).map(value => expect.closeTo(value, 9)))
    expect(
      Math.abs(
        project(camera, ASPECT, transformPoint(found.matrix, pin!.local)).metres -
          project(camera, ASPECT, transformPoint(before, pin!.local)).metres,
      ),
    ).toBeLessThan(0.05)
  })
})

describe('drawing on the ground', () => {
  const at = (x: number, y: number, z: number) => project(camera, ASPECT, [x, y, z])
  it('heights and places beside a foot are read back', () => {
    const foot: Vector3 = [-1, 0, -6]
    expect(heightOver(camera, ASPECT, foot, at(-1, 1.37, -6))).toBeCloseTo(1.37, 6)
    expect(besideFoot(camera, ASPECT, foot, at(-1, 0.5, -6))![0]).toBeCloseTo(0, 6)
  })
  it('a rectangle has the edge that was drawn, whichever side its opposite lies', () => {
    for (const c of [
      [0, 2],
      [0, -2],
    ] as const) {
      const { width, depth, heading, corners } = rectangleOnGround([0, 0], [3, 1], c)
      expect(width).toBeCloseTo(Math.hypot(3, 1), 9)
      const turned = transformPoint(rotationFromDegrees(heading, 0, 0), [width, 0, 0])
      expect([turned[0], turned[2]]).toEqual([expect.closeTo(3, 9), expect.closeTo(1, 9)])
      expect(Math.abs((corners[2]![0] - corners[1]![0]) * 3 + (corners[2]![1] - corners[1]![1]))).toBeLessThan(1e-9)
      expect(depth).toBeCloseTo((2 * 3) / Math.hypot(3, 1), 9)
    }
  })
  it('a box is an edge, its opposite, a height; where it stands it is seen where it was drawn', () => {
    const drawing = new Drawing('box', camera, ASPECT, 0)
    const a: Vector3 = [-2, 0, -5]
    const b: Vector3 = [-1, 0, -5.4]
    const c: Vector3 = [-0.8, 0, -6.5]
    for (const p of [a, b, c]) expect(drawing.click(at(...p))).toBeUndefined()
    expect(drawing.ghost(at(...c)).length).toBe(12)
    const made = drawing.click(at(c[0], 0.9, c[2]))!
    expect(made.shape.height).toBeCloseTo(0.9, 3)
    const matrix = placedAt(made.heading, 0, 0, made.place)
    const seen = transformPoint(matrix, [-made.shape.width / 2, 0, made.shape.depth / 2])
    expect(Math.hypot(seen[0] - a[0], seen[2] - a[2])).toBeLessThan(1e-3)
  })
  it('the others: cylinder, ball, plane, block, turned shape; snapped to a step', () => {
    const cylinder = new Drawing('cylinder', camera, ASPECT, 0.5)
    cylinder.click(at(0.1, 0, -6.1))
    cylinder.click(at(0.9, 0, -6.1))
    expect(cylinder.click(at(0, 1.3, -6))!.shape).toMatchObject({ width: 2, height: 1.5 })
    const ball = new Drawing('ball', camera, ASPECT, 0)
    ball.click(at(1, 0, -6))
    expect(ball.click(at(1, 0.8, -6))!.shape.width).toBeCloseTo(0.8, 3)
    const block = new Drawing('outline', camera, ASPECT, 0)
    for (const [x, z] of [
      [0, -5],
      [1, -5],
      [1, -6],
    ] as const)
      block.click(at(x, 0, z))
    expect(block.end()).toBeUndefined()
    expect(block.click(at(0, 1, -5))!.shape).toMatchObject({
      shape: 'outline',
      points: [
        [-0.5, 0.5],
        [0.5, 0.5],
        [0.5, -0.5],
      ].map(p => p.map(value => expect.closeTo(value, 3))),
    })
    const turned = new Drawing('profile', camera, ASPECT, 0)
    turned.click(at(0, 0, -6))
    for (const y of [0, 0.5, 1]) turned.click(at(0, y, -6))
    expect(turned.end()!.shape.points.map(p => p[1])).toEqual([0, 0.5, 1].map(value => expect.closeTo(value, 3)))
    expect(() => new Drawing('box', camera, ASPECT, 0).click({ u: 0.5, v: 0.01 })).toThrow(/above the horizon/)
    const short = new Drawing('outline', camera, ASPECT, 0)
    short.click(at(0, 0, -5))
    expect(() => short.end()).toThrow(/three corners/)
  })
})

describe('things', () => {
  const FILE = scene(
    [object('bell', ground(1)), object('frame', ground(1)), object('floor', ground(9), { role: 'catcher' })],
    { materials: [material()] },
  )
  const NAMES = FILE.objects.map(entry => entry.name)
  const filled = (): ShotDocument => {
    const document = newDocument()
    document.scene.objects.bell = { position: [1, 2, 3], group: 'house' }
    document.scene.objects.frame = { group: 'house' }
    ownRender(document.build.layers)!.desk.objects.bell = { exposure: 1 }
    addRow(document.finish, {
      ...newTreatment('exposure', { stops: 1 }, 'e'),
      matte: slipOf(namesTerm(['bell', 'floor'])),
    })
    addRow(document.scene.lights, {
      id: 'l',
      name: 'spot',
      kind: 'spot',
      on: true,
      azimuth: 0,
      elevation: 90,
      kelvin: 3000,
      stops: 0,
      diameter: 1,
      width: 0.2,
      height: 0.2,
      distance: 2,
      target: [0, 0, 0],
      aim: 'bell',
    })
    document.passes.file = {
      blob: 'a'.repeat(64),
      name: 'p',
      width: 10,
      height: 10,
      passes: [],
      objects: [...NAMES],
      materials: [],
      of: '',
    }
    return document
  }
  it('are renamed everywhere the shot speaks of them, and back', () => {
    const document = filled()
    renameObject(document, NAMES, 'bell', 'great bell')
    expect(objectsOf(document, FILE, 1).objects.map(entry => entry.name)).toEqual(['great bell', 'frame', 'floor'])
    expect(document.scene.objects['great bell']).toMatchObject({ position: [1, 2, 3] })
    expect(ownRender(document.build.layers)!.desk.objects).toEqual({ 'great bell': { exposure: 1 } })
    expect(Object.values(document.finish.e!.matte!.terms)).toMatchObject([{ names: ['great bell', 'floor'] }])
    expect(document.scene.lights.l!.aim).toBe('great bell')
    expect(document.passes.file!.names).toEqual({ bell: 'great bell' })
    renameObject(document, NAMES, 'great bell', 'third')
    expect(document.passes.file!.names).toEqual({ bell: 'third' })
    renameObject(document, NAMES, 'third', 'bell')
    expect(document.scene.names).toEqual({})
    expect(documentFaults(document)).toEqual([])
    expect(() => renameObject(document, NAMES, 'bell', 'floor')).toThrow(/already something/)
    expect(() => renameObject(document, NAMES, 'bell', ' ')).toThrow(/name is needed/)
    expect(() => renameObject(document, NAMES, 'nothing', 'x')).toThrow(/no object/)
  })
  it('are copied, left out, and stand-ins drawn beside them; documents stay valid', () => {
    const document = filled()
    const copy = copyObject(document, NAMES, 'bell', [4, 0, 0])
    const second = copyObject(document, NAMES, copy, [5, 0, 0])
    expect([copy, second]).toEqual(['bell 2', 'bell 3'])
    const name = addStandIn(
      document,
      NAMES,
      { shape: 'box', width: 1, height: 2, depth: 1, points: [] },
      [0, 0, -3],
      10,
    )
    const twin = copyObject(document, NAMES, name, [1, 0, -3])
    const { objects } = objectsOf(document, FILE, 1)
    expect(objects.map(entry => entry.name)).toEqual(['bell', 'frame', 'floor', 'bell 2', 'bell 3', 'box', 'box 2'])
    expect(documentFaults(document)).toEqual([])
    const rendered = sceneAt(document, { scene: FILE }, 1)
    expect(rendered.objects.find(entry => entry.name === twin)).toMatchObject({ role: 'catcher', ofPlate: true })
    expect(rendered.objects.find(entry => entry.name === copy)!.matrix.slice(12, 15)).toEqual([4, 0, 0])
    removeObject(document, 'bell 2')
    removeObject(document, 'floor')
    expect(sceneAt(document, { scene: FILE }, 1).objects.find(entry => entry.name === 'floor')!.absent).toBe(true)
    expect(objectsOf(document, FILE, 1).objects.map(entry => entry.name)).not.toContain('bell 2')
    addRow(document.scene.added!, { id: 'odd', name: 'odd', kind: 'copy' } as never)
    expect(documentFaults(document).join()).toMatch(/scene\.added\.odd\.of: /)
  })
  it('change their size, and how rough what is laid on them is, over time; the lens of a zoom too, on a frame that fits all of it', () => {
    const document = filled()
    const over = (a: number, b: number): Animatable => ({
      keys: [
        { frame: 1, value: a, ease: 'linear' },
        { frame: 11, value: b, ease: 'linear' },
      ],
    })
    document.frames.last = 11
    const name = addStandIn(
      document,
      NAMES,
      { shape: 'box', width: 1, height: 2, depth: 1, points: [] },
      [0, 0, -3],
      10,
    )
    const entry = inOrder(document.scene.added).at(-1)!
    if (entry.kind !== 'standin') throw new Error('no stand-in')
    Object.assign(entry, { height: over(2, 4), roughness: over(0.2, 0.6) })
    const at = (frame: number) => {
      const { objects, materials } = objectsOf(document, FILE, frame)
      const found = objects.find(other => other.name === name)!
      return [
        Math.max(...found.parts[0]!.positions.filter((_, i) => i % 3 === 1)),
        materials[found.parts[0]!.material]!.roughness,
      ]
    }
    expect(at(1)).toEqual([2, 0.2])
    expect(at(6).map(value => Number(value!.toFixed(6)))).toEqual([3, 0.4])
    const texture = { pixels: new Uint8Array(4), width: 1, height: 1, wrapS: 'clamp', wrapT: 'clamp' } as const
    const print: Unplaced<PrintSettings> = {
      id: 'p',
      name: 'label',
      on: name,
      shown: true,
      picture: {
        blob: 'b'.repeat(64),
        name: 'p.png',
        encoding: 'srgb',
        alpha: 'none',
        width: 1,
        height: 1,
        facts: { format: 'png', bits: 8, float: false, alpha: 'none' },
      },
      from: 'front',
      matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
      tangent: 0,
      size: 1,
      turn: 0,
      shiftX: 0,
      shiftY: 0,
      opacity: 1,
      instead: false,
      roughness: over(0, 1),
    }
    document.scene.prints = rowsOf<PrintSettings>([print])
    expect([1, 6, 11].map(frame => printAt(print, texture, placedAt(0, 0, 0, [0, 0, 0]), frame).roughness)).toEqual([
      0, 0.5, 1,
    ])
    document.lens = { k1: over(-0.02, -0.1), k2: 0, on: true }
    expect([1, 6, 11].map(frame => lensOf(document, frame)!.k1.toFixed(3))).toEqual(['-0.020', '-0.060', '-0.100'])
    expect(workingFrame(document)).toEqual(overscanOf({ k1: -0.1, k2: 0 }, document.frame))
    expect(documentFaults(document)).toEqual([])
    expect(
      animatedValues(document)
        .map(({ owner, name: value }) => `${owner}: ${value}`)
        .sort(),
    ).toEqual(['Lens: first term', 'box: height', 'box: roughness', 'label: roughness'])
    Object.assign(entry, { height: over(2, -4) })
    expect(documentFaults(document).join()).toMatch(/scene.added.*height/)
  })
  it('move with their group; the locked stay; the animated get a key', () => {
    const document = filled()
    document.scene.objects.frame!.locked = true
    document.scene.objects.bell!.position![0] = {
      keys: [
        { frame: 1, value: 1, ease: 'linear' },
        { frame: 11, value: 3, ease: 'linear' },
      ],
    }
    expect(groupOf(document, 'bell').sort()).toEqual(['bell', 'frame'])
    expect(moveTogether(document, groupOf(document, 'bell'), () => [3, 2, 3], [0.5, 0, -1], 11)).toBe(1)
    expect(valueAt(document.scene.objects.bell!.position![0], 11)).toBe(3.5)
    expect(valueAt(document.scene.objects.bell!.position![0], 1)).toBe(1)
    expect(document.scene.objects.bell!.position![2]).toBe(2)
    expect(document.scene.objects.frame!.position).toBeUndefined()
  })
  it('a lamp points at the middle of its object and gives off the lumen it says', () => {
    const document = filled()
    const [settings] = inOrder(document.scene.lights)
    const light = sceneAt(document, { scene: FILE }, 1).lights[0]!
    expect(light.kind === 'disc' && light.centre).toEqual([1, 4, 3].map(value => expect.closeTo(value, 6)))
    const lit = lightAt({ ...settings!, kind: 'ball', unit: 'lumen', amount: 683 }, 1)
    // One watt over pi times the ball's surface
    expect(
      lit.kind === 'ball' && 0.2126 * lit.radiance[0] + 0.7152 * lit.radiance[1] + 0.0722 * lit.radiance[2],
    ).toBeCloseTo(1 / (Math.PI * 4 * Math.PI * 0.01), 6)
  })
})

describe('the sun in an environment', () => {
  const width = 256
  const height = 128
  const azimuth = 50
  const elevation = 35
  const diameter = 6
  const sky = (sun: number): Float32Array => {
    const out = new Float32Array(width * height * 4)
    const d = skyDirection(azimuth, elevation)
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const phi = ((x + 0.5) / width - 0.5) * 2 * Math.PI
        const theta = ((y + 0.5) / height) * Math.PI
        const p = [Math.sin(phi) * Math.sin(theta), Math.cos(theta), -Math.cos(phi) * Math.sin(theta)]
        out.fill(
          Math.acos(p[0]! * d[0] + p[1]! * d[1] + p[2]! * d[2]) < ((diameter / 2) * Math.PI) / 180 ? sun : 0.5,
          (y * width + x) * 4,
          (y * width + x) * 4 + 3,
        )
      }
    }
    return out
  }
  it('is found: direction, irradiance (radiance times projected solid angle) and what is left without it', () => {
    const found = findSun(sky(400), width, height)!
    expect(Math.abs(found.azimuth - azimuth)).toBeLessThan(0.7)
    expect(Math.abs(found.elevation - elevation)).toBeLessThan(0.7)
    expect(
      Math.abs(found.irradiance[1] / (399.5 * Math.PI * Math.sin(((diameter / 2) * Math.PI) / 180) ** 2) - 1),
    ).toBeLessThan(0.1)
    expect(found.without.reduce((most, value) => Math.max(most, value), 0)).toBe(0.5)
    expect(Math.abs(found.diameter - diameter)).toBeLessThan(0.6)
  })
  it('is none where nothing stands out; the main light is found all the same', () => {
    expect(findSun(sky(5), width, height)).toBeUndefined()
    const main = mainLightOf(sky(5), width, height)
    expect(Math.abs(main.azimuth - azimuth)).toBeLessThan(25)
  })
})
