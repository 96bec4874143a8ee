// Materials of glTF, held against white furnaces and the formulas of their extensions.
import { Document, WebIO } from '@gltf-transform/core'
import {
  KHRMaterialsClearcoat,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsUnlit,
  KHRTextureTransform,
} from '@gltf-transform/extensions'
import { describe, expect, it } from 'vitest'
import { readGltf } from '../../core/formats/gltf/gltf'
import { writePng } from '../../core/formats/png/png'
import { beautyOf } from '../../core/render/planes'
import type { Material, Scene } from '../../core/scene/scene'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'
import { io, type Made, made, flat, code, linear, close } from '../gltfMade'

describe('surface', () => {
  // Four colours in four fields: red, green over blue, white (rows from the top)
  const picture = writePng({
    width: 2,
    height: 2,
    channels: 3,
    maximum: 255,
    data: Uint8Array.from([255, 0, 0, 0, 255, 0, 0, 0, 255, 255, 255, 255]),
  })
  async function textured(
    change: (own: Made, material: ReturnType<Document['createMaterial']>) => void,
    extensions: Parameters<WebIO['registerExtensions']>[0] = [],
  ): Promise<Scene> {
    const own = made()
    const { document, primitive, accessor } = own
    const uv = Float32Array.from([0, 1, 1, 1, 0, 0.5, 1, 0.5, 0, 0, 1, 0])
    const texture = document.createTexture('fields').setImage(picture).setMimeType('image/png')
    const made_ = document
      .createMaterial('m')
      .setBaseColorTexture(texture)
      .setRoughnessFactor(1)
      .setMetallicFactor(0)
      .setDoubleSided(true)
    made_.getBaseColorTextureInfo()!.setMagFilter(9728)
    primitive.setMaterial(made_).setAttribute('TEXCOORD_0', accessor('VEC2', uv))
    change(own, made_)
    return readGltf(await io(extensions).writeBinary(document))
  }
  /** Surface colour at a place of the strip: x -1..1, y 0..2. */
  const colourAt = (read: Scene, x: number, y: number): number[] => {
    const passes = renderScene(read, {
      camera: lookAt([x, y, 1], [x, y, 0], 1000),
      width: 1,
      height: 1,
      samples: 1,
      filterRadius: 0.1,
      passes: ['albedo'],
    })
    return [...passes.albedo].map(value => Math.abs(Math.round(value * 10) / 10))
  }
  it('textures are moved, turned and scaled as KHR_texture_transform says', async () => {
    const plain = await textured(() => {})
    expect(colourAt(plain, -0.5, 1.5)).toEqual([1, 0, 0])
    expect(colourAt(plain, 0.5, 0.5)).toEqual([1, 1, 1])
    const moved = await textured(
      (own, material) => {
        material
          .getBaseColorTextureInfo()!
          .setExtension(
            'KHR_texture_transform',
            own.document.createExtension(KHRTextureTransform).createTransform().setOffset([0.5, 0]),
          )
      },
      [KHRTextureTransform],
    )
    expect(colourAt(moved, -0.5, 1.5)).toEqual([0, 1, 0])
    // Turned by a right angle about the upper left corner, and shifted back: (u, v) reads (v, 1 - u), by the matrix in
    // the extension's text
    const turned = await textured(
      (own, material) => {
        material.getBaseColorTextureInfo()!.setExtension(
          'KHR_texture_transform',
          own.document
            .createExtension(KHRTextureTransform)
            .createTransform()
            .setRotation(Math.PI / 2)
            .setOffset([0, 1]),
        )
      },
      [KHRTextureTransform],
    )
    expect(colourAt(turned, -0.5, 1.5)).toEqual([0, 0, 1])
    const scaled = await textured(
      (own, material) => {
        material
          .getBaseColorTextureInfo()!
          .setExtension(
            'KHR_texture_transform',
            own.document.createExtension(KHRTextureTransform).createTransform().setScale([0.5, 0.5]),
          )
      },
      [KHRTextureTransform],
    )
    expect(colourAt(scaled, 0.4, 0.6)).toEqual(colourAt(plain, -0.3, 1.3))
  })
  it('lie by a second set of coordinates when they say so', async () => {
    const second = await textured((own, material) => {
      own.primitive.setAttribute(
        'TEXCOORD_1',
        own.accessor('VEC2', Float32Array.from([1, 1, 0, 1, 1, 0.5, 0, 0.5, 1, 0, 0, 0])),
      )
      material.getBaseColorTextureInfo()!.setTexCoord(1)
    })
    expect(colourAt(second, -0.5, 1.5)).toEqual([0, 1, 0])
    expect(second.notes).toEqual([])
  })
  it('colours of vertices multiply, opacity too', async () => {
    const painted = await textured((own, material) => {
      material.setBaseColorTexture(null).setAlphaMode('BLEND')
      own.primitive.setAttribute(
        'COLOR_0',
        own.accessor('VEC4', Float32Array.from(Array.from({ length: 6 }, () => [0.5, 0.25, 1, 0.5]).flat())),
      )
    })
    const passes = renderScene(painted, {
      camera: lookAt([0, 1, 1], [0, 1, 0], 1000),
      width: 1,
      height: 1,
      samples: 1,
      passes: ['albedo', 'alpha'],
    })
    expect(passes.alpha[0]).toBeCloseTo(0.5, 2)
    close(
      [...passes.albedo].map(value => value / passes.alpha[0]!),
      [0.5, 0.25, 1],
      1,
    )
    expect(passes.albedo[0]! / passes.alpha[0]!).toBeCloseTo(0.5, 2)
  })
  it('unlit shows its colour whatever the light', async () => {
    const unlit = await textured(
      (own, material) => {
        material.setExtension('KHR_materials_unlit', own.document.createExtension(KHRMaterialsUnlit).createUnlit())
      },
      [KHRMaterialsUnlit],
    )
    for (const environment of [undefined, constantEnvironment(3)]) {
      const passes = renderScene(
        { ...unlit, environment },
        { camera: lookAt([-0.5, 1.5, 1], [-0.5, 1.5, 0], 1000), width: 1, height: 1, samples: 16, passes: ['beauty'] },
      )
      close([...beautyOf(passes)], [1, 0, 0], 1)
    }
  })
  it('lacquer, cloth and strength of mirroring are read, with their pictures', async () => {
    const read = await textured(
      (own, material) => {
        const { document } = own
        material.setExtension(
          'KHR_materials_clearcoat',
          document
            .createExtension(KHRMaterialsClearcoat)
            .createClearcoat()
            .setClearcoatFactor(0.8)
            .setClearcoatRoughnessFactor(0.1)
            .setClearcoatTexture(material.getBaseColorTexture()),
        )
        material.setExtension(
          'KHR_materials_sheen',
          document
            .createExtension(KHRMaterialsSheen)
            .createSheen()
            .setSheenColorFactor([0.2, 0.3, 0.4])
            .setSheenRoughnessFactor(0.5),
        )
        material.setExtension(
          'KHR_materials_specular',
          document
            .createExtension(KHRMaterialsSpecular)
            .createSpecular()
            .setSpecularFactor(0.5)
            .setSpecularColorFactor([1, 0.5, 0]),
        )
      },
      [KHRMaterialsClearcoat, KHRMaterialsSheen, KHRMaterialsSpecular],
    )
    expect(read.materials[0]).toMatchObject({
      coat: { strength: 0.8, roughness: 0.1 },
      sheen: { roughness: 0.5 },
      specular: { strength: 0.5, colour: [1, 0.5, 0] },
    })
    expect(read.materials[0]!.coat!.texture).toMatchObject({ width: 2, height: 2 })
    expect(read.notes).toEqual([])
  })
})

describe('layers in a white furnace', () => {
  // White below, white light all round: what layers do not send back, they leave to what is below
  const layered = (change: Partial<Material>): number => {
    const passes = renderScene(
      scene([object('ball', ball([0, 0, 0], 1))], {
        materials: [material({ roughness: 0.6, ...change })],
        environment: constantEnvironment(),
      }),
      { camera: lookAt([0, 0, 6], [0, 0, 0], 50), samples: 256, width: 24, height: 16, maxBounces: 16 },
    )
    const beauty = beautyOf(passes)
    return mean(beauty, 3, 1, i => passes.alpha[i]! > 0.999)
  }
  it.each<[string, Partial<Material>, Partial<Material>]>([
    [
      'lacquer',
      { coat: { strength: 0.8, roughness: 0.9, texture: flat, roughnessTexture: flat } },
      { coat: { strength: 0.8 * code(128), roughness: 0.9 * code(64) } },
    ],
    [
      'cloth',
      { sheen: { colour: [1, 0.5, 1], roughness: 0.8, colourTexture: flat, roughnessTexture: flat } },
      { sheen: { colour: [linear(128), 0.5 * linear(64), linear(200)], roughness: 0.8 * code(100) } },
    ],
    [
      'mirroring',
      { roughness: 0.3, specular: { strength: 0.9, colour: [1, 2, 1], texture: flat, colourTexture: flat } },
      { roughness: 0.3, specular: { strength: 0.9 * code(100), colour: [linear(128), 2 * linear(64), linear(200)] } },
    ],
  ])(
    'a picture of %s multiplies its factor, channel by channel (KHR_materials_clearcoat, _sheen, _specular)',
    (_, pictured, plain) => {
      const [a, b] = [pictured, plain].map(change =>
        beautyOf(
          renderScene(
            scene([object('floor', ground(50))], {
              materials: [material({ baseColour: [0.1, 0.1, 0.1, 1], ...change })],
              environment: constantEnvironment(),
            }),
            { camera: lookAt([0, 2, 6], [0, 0, 0], 60), width: 8, height: 8, samples: 64 },
          ),
        ),
      ) as [Float32Array, Float32Array]
      for (let i = 0; i < a.length; i++) expect(a[i]! / b[i]!).toBeCloseTo(1, 4)
      expect(
        beautyOf(
          renderScene(
            scene([object('floor', ground(50))], {
              materials: [material({ baseColour: [0.1, 0.1, 0.1, 1] })],
              environment: constantEnvironment(),
            }),
            { camera: lookAt([0, 2, 6], [0, 0, 0], 60), width: 8, height: 8, samples: 64 },
          ),
        )[0]! / b[0]!,
      ).not.toBeCloseTo(1, 2)
    },
  )
  it.each<[string, Partial<Material>]>([
    ['lacquer, smooth', { coat: { strength: 1, roughness: 0 } }],
    ['lacquer, rough', { coat: { strength: 0.7, roughness: 0.5 } }],
    ['cloth', { sheen: { colour: [1, 1, 1], roughness: 0.5 } }],
    ['soft cloth', { sheen: { colour: [0.5, 0.5, 0.5], roughness: 0.9 } }],
    ['strong mirroring', { specular: { strength: 1, colour: [3, 3, 3] } }],
    ['no mirroring', { specular: { strength: 0, colour: [1, 1, 1] } }],
  ])('%s keeps the light', (_, change) => {
    expect(Math.abs(layered(change) - 1)).toBeLessThan(0.015)
  })
  it('lacquer on black mirrors what glass of 1.5 does: 4 % straight on', () => {
    const passes = renderScene(
      scene([object('floor', ground(50))], {
        materials: [
          material({
            baseColour: [0, 0, 0, 1],
            specular: { strength: 0, colour: [1, 1, 1] },
            coat: { strength: 1, roughness: 0 },
          }),
        ],
        environment: constantEnvironment(),
      }),
      { camera: lookAt([0, 5, 0], [0, 0, 0], 400), samples: 64 },
    )
    expect(mean(beautyOf(passes), 3)).toBeCloseTo(0.04, 3)
  })
  it('specular colour is what a dielectric mirrors straight on, times 0.04', () => {
    const passes = renderScene(
      scene([object('floor', quad([-50, 0, 50], [50, 0, 50], [50, 0, -50], [-50, 0, -50]))], {
        materials: [
          material({ baseColour: [0, 0, 0, 1], roughness: 0, specular: { strength: 0.5, colour: [1, 0.5, 0] } }),
        ],
        environment: constantEnvironment(),
      }),
      { camera: lookAt([0, 5, 0], [0, 0, 0], 400), samples: 64 },
    )
    const beauty = beautyOf(passes)
    close(
      [0, 1, 2].map(c => mean(beauty, 3, c)),
      [0.02, 0.01, 0],
      3,
    )
  })
})
