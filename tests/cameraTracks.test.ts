// Camera tracks: read, refused with what is wrong, laid on the camera, taken from animated glTF cameras.
import { describe, expect, it } from 'vitest'
import { Document, WebIO } from '@gltf-transform/core'
import { DEFAULT_CAMERA, newDocument } from '../core/shot/document'
import { cameraAt, settingsOfCamera } from '../core/shot/scene'
import { startTrack, trackFaults, trackFrom, useTrack } from '../core/shot/track'
import { readTrack, unwound, writeTrack, type CameraTrack } from '../core/track/track'
import { valueAt, type Animatable } from '../core/time/curve'
import { documentFaults } from '../shared/validate'

describe('camera tracks', () => {
  const track: CameraTrack = {
    rate: { numerator: 24000, denominator: 1001 },
    first: 101,
    sensorWidth: 24,
    frames: Array.from({ length: 48 }, (_, i) => ({
      x: i * 0.1,
      y: 1.6,
      z: 0 - i,
      heading: (179 + i) % 360 > 180 ? ((179 + i) % 360) - 360 : 179 + i,
      pitch: -3,
      bank: 0.5,
      focalLength: 32,
    })),
    points: [{ name: 'mast', place: [1, 2, 3] }],
  }
  it('are read from JSON as written, and from CSV', () => {
    expect(readTrack(new TextEncoder().encode(writeTrack(track)))).toEqual(track)
    const csv = `# from somewhere\nrate,24000/1001\nsensorWidth,24\nframe,x,y,z,heading,pitch,bank,focalLength\n101,0,1.6,0,179,-3,0.5,32\n102,0.1,1.6,-1,180,-3,0.5,32\npoint,x,y,z\nmast,1,2,3\n`
    expect(readTrack(new TextEncoder().encode(csv))).toEqual({ ...track, frames: track.frames.slice(0, 2) })
  })
  it('broken ones are refused with the line that is wrong', () => {
    const read = (text: string) => () => readTrack(new TextEncoder().encode(text))
    const head = 'frame,x,y,z,heading,pitch,bank,focalLength\n'
    expect(read('{ "northmist": "camera track", "version": 1, "frames": [] }')).toThrow(/no frames/)
    expect(read('{ broken')).toThrow(/no JSON/)
    expect(read(`${head}1,0,0,0,0,0,0,35\n3,0,0,0,0,0,0,35`)).toThrow(/frame 3 in line 3 comes where frame 2/)
    expect(read(`${head}1,0,zero,0,0,0,0,35`)).toThrow(/“y” in line 2 is no number/)
    expect(read('1,2,3')).toThrow(/before any head line/)
    expect(read('frame,x,y,z\n')).toThrow(/no column “heading”/)
    expect(read(`${head}1,0,0,0,0,0,0,0.1`)).toThrow(/focal length of 0.1/)
    expect(read(`rate,abc\n${head}`)).toThrow(/rate “abc”/)
  })
  it('become curves of the camera without leaps; what does not fit is said', () => {
    const document = newDocument()
    document.frames = { first: 1, last: 50 }
    document.rate = { numerator: 25, denominator: 1 }
    useTrack(document, { blob: 'c'.repeat(64), name: 't' }, track, 1)
    const { camera } = document.scene
    expect(valueAt(camera.heading, 48)).toBeCloseTo(179 + 47, 4)
    expect(valueAt(camera.heading, 10.5) - valueAt(camera.heading, 10)).toBeCloseTo(0.5, 4)
    expect(camera.y).toBe(1.6)
    expect(trackFaults(document)).toEqual([
      expect.stringMatching(/covers 1 to 48; the shot runs from 1 to 50/),
      expect.stringMatching(/24000\/1001/),
    ])
    startTrack(document, 3)
    expect(valueAt(document.scene.camera.x, 3)).toBe(0)
    expect(documentFaults(document)).toEqual([])
    expect(unwound([350, 5, 20, 340])).toEqual([350, 365, 380, 340])
  })
  it('come from the animated camera of a glTF file: linear, spherical and cubic as the standard says (glTF 2.0, appendix C)', async () => {
    const gltf = new Document()
    const buffer = gltf.createBuffer()
    const root = gltf.createScene()
    const array = (type: 'SCALAR' | 'VEC3' | 'VEC4', values: number[]) =>
      gltf.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(buffer)
    const node = gltf
      .createNode('camera')
      .setCamera(gltf.createCamera().setType('perspective').setYFov(0.6).setAspectRatio(1.5))
    const rig = gltf.createNode('rig').setTranslation([0, 1.5, 0]).addChild(node)
    root.addChild(rig).addChild(
      gltf.createNode('cloud').setMesh(
        gltf.createMesh().addPrimitive(
          gltf
            .createPrimitive()
            .setMode(0)
            .setAttribute('POSITION', array('VEC3', [0, 1, -5, 2, 0, -7])),
        ),
      ),
    )
    const half = Math.PI / 8
    const animation = gltf.createAnimation()
    const add = (
      target: typeof node,
      path: 'translation' | 'rotation',
      interpolation: 'LINEAR' | 'CUBICSPLINE',
      values: number[],
    ): void => {
      const sampler = gltf
        .createAnimationSampler()
        .setInput(array('SCALAR', [0, 1]))
        .setOutput(array(path === 'rotation' ? 'VEC4' : 'VEC3', values))
        .setInterpolation(interpolation)
      animation
        .addSampler(sampler)
        .addChannel(gltf.createAnimationChannel().setTargetNode(target).setTargetPath(path).setSampler(sampler))
    }
    add(node, 'rotation', 'LINEAR', [0, 0, 0, 1, 0, Math.sin(half), 0, Math.cos(half)])
    add(rig, 'translation', 'CUBICSPLINE', [0, 0, 0, 0, 1.5, 0, 3, 0, 0, -1, 0, 0, 2, 1.5, -4, 0, 0, 0])
    const read = await trackFrom(await new WebIO().writeBinary(gltf), { numerator: 10, denominator: 1 })
    expect(read.frames).toHaveLength(11)
    // 45 degrees in a second, evenly; the place by Hermite's polynomials: p0 0, m0 3, p1 2, m1 -1
    read.frames.forEach((frame, i) => {
      const t = i / 10
      expect(frame.heading).toBeCloseTo(45 * t, 3)
      expect(frame.x).toBeCloseTo((t ** 3 - 2 * t ** 2 + t) * 3 + (-2 * t ** 3 + 3 * t ** 2) * 2 - (t ** 3 - t ** 2), 4)
      expect(frame.y).toBeCloseTo(1.5, 5)
    })
    expect(read.points.map(point => point.place)).toEqual([
      [0, 1, -5],
      [2, 0, -7],
    ])
    // Focal length from the angle: 24 / (2 tan(0.3)) on a sensor of 36 x 24
    expect(read.frames[0]!.focalLength).toBeCloseTo(24 / (2 * Math.tan(0.3)), 3)
    await expect(
      trackFrom(
        await new WebIO().writeBinary(
          (() => {
            const still = new Document()
            still
              .createScene()
              .addChild(still.createNode().setCamera(still.createCamera().setType('perspective').setYFov(1)))
            return still
          })(),
        ),
        { numerator: 24, denominator: 1 },
      ),
    ).rejects.toThrow(/no camera that moves/)
  })
  it('a camera’s settings come back from its matrix', () => {
    const settings = { ...DEFAULT_CAMERA, heading: 33, pitch: -12, bank: 4, x: 1 }
    expect(settingsOfCamera(cameraAt(settings, 1))).toEqual(
      Object.fromEntries(
        Object.entries(settings).map(([key, value]) => [key, expect.closeTo(value as Animatable as number, 4)]),
      ),
    )
  })
})
