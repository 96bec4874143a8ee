// The demo's scene against three.js drawing the same glTF in Chromium: its own reader, its own camera, WebGL. Places,
// normals and names away from edges.
import { build } from 'esbuild'
import { chromium, type Browser } from 'playwright-core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { readGltf } from '../../core/formats/gltf/gltf'
import { NO_DEPTH } from '../../core/render/passes'
import type { Scene } from '../../core/scene/scene'
import { demoFile } from '../../host/demofile'
import { useNode } from '../../host/engine'
import { lookAt, renderScene } from '../scenes'

const WIDTH = 320
const HEIGHT = 200
const camera = lookAt([5, 2.2, -4], [2.1, 1.5, -9.2], 45)
/**
 * Runs in the page: draws the file and reads back metres along the view axis, number of the name, and normals that face
 * the camera.
 */
const PAGE = `
import * as THREE from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
window.draw = async (base64, names, { matrix, focalLength, sensorWidth }, width, height) => {
  const { scene } = await new GLTFLoader().parseAsync(Uint8Array.from(atob(base64), c => c.charCodeAt(0)).buffer, '')
  const renderer = new THREE.WebGLRenderer({ antialias: false }), camera = new THREE.PerspectiveCamera(2 * Math.atan(sensorWidth * height / width / 2 / focalLength) * 180 / Math.PI, width / height, 0.5, 200)
  new THREE.Matrix4().fromArray(matrix).decompose(camera.position, camera.quaternion, camera.scale)
  const target = new THREE.WebGLRenderTarget(width, height, { type: THREE.FloatType, minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter }), unknown = []
  const material = (index, what) => new THREE.ShaderMaterial({ side: THREE.DoubleSide, uniforms: { index: { value: index } }, vertexShader: 'varying vec3 n; varying float d; void main() { n = mat3(transpose(inverse(modelMatrix))) * normal; vec4 p = modelViewMatrix * vec4(position, 1.0); d = -p.z; gl_Position = projectionMatrix * p; }', fragmentShader: what === 'place' ? 'uniform float index; varying vec3 n; varying float d; void main() { gl_FragColor = vec4(d, index, 0.0, 1.0); }' : 'varying vec3 n; varying float d; void main() { gl_FragColor = vec4(normalize(n) * (gl_FrontFacing ? 1.0 : -1.0), 1.0); }' })
  const out = {}
  for (const what of ['place', 'normal']) {
    scene.traverse(object => {
      if (!object.isMesh) return
      const name = [object, object.parent].map(o => o.userData.name ?? o.name).find(name => names.includes(name))
      if (!name) unknown.push(object.name)
      object.material = material(names.indexOf(name) + 1, what)
    })
    renderer.setRenderTarget(target)
    renderer.setClearColor(0, 0)
    renderer.clear()
    renderer.render(scene, camera)
    const pixels = new Float32Array(width * height * 4)
    renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels)
    out[what] = [...pixels]
  }
  return { ...out, unknown }
}`
interface Drawn {
  place: number[]
  normal: number[]
  unknown: string[]
}

let browser: Browser
let drawn: Drawn
let ours: ReturnType<typeof renderScene>
let objects: Scene['objects']
beforeAll(async () => {
  useNode()
  const bytes = demoFile('bell house.glb')
  const file = await readGltf(bytes)
  // Both draw bare meshes: no cut-outs, no glass, no bumps
  const bare = {
    ...file,
    objects: file.objects.map(object => ({ ...object, hidden: false, role: 'object' as const })),
    materials: file.materials.map(material => ({
      ...material,
      alphaMode: 'opaque' as const,
      transmission: 0,
      normalTexture: undefined,
    })),
  }
  objects = bare.objects
  ours = renderScene(bare, {
    camera,
    width: WIDTH,
    height: HEIGHT,
    samples: 16,
    passes: ['depth', 'object_id', 'normal', 'alpha'],
  })
  const { outputFiles } = await build({
    stdin: { contents: PAGE, resolveDir: process.cwd() },
    bundle: true,
    write: false,
    format: 'iife',
    logLevel: 'error',
  })
  browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--headless=new',
      '--no-sandbox',
      '--use-angle=swiftshader',
      '--enable-unsafe-swiftshader',
      '--ignore-gpu-blocklist',
    ],
  })
  const page = await browser.newPage()
  await page.addScriptTag({ content: outputFiles[0]!.text })
  drawn = await page.evaluate(
    ([base64, names, camera, width, height]) =>
      (window as unknown as { draw(...args: unknown[]): Promise<Drawn> }).draw(base64, names, camera, width, height),
    [bytes.toString('base64'), objects.map(({ name }) => name), camera, WIDTH, HEIGHT] as const,
  )
})
afterAll(() => browser.close())

/**
 * Pixels with the greatest step of metres to a neighbour: corners are drawn at sixteenths of a pixel there, which tilts
 * surfaces by as much (ours: rows from the top) round which both show one thing; theirs has its rows from the bottom.
 */
function inner(): { pixel: number; theirs: number; slope: number }[] {
  const at = (x: number, y: number): number => (HEIGHT - 1 - y) * WIDTH + x
  const out: { pixel: number; theirs: number; slope: number }[] = []
  for (let y = 1; y < HEIGHT - 1; y++)
    for (let x = 1; x < WIDTH - 1; x++) {
      const name = drawn.place[at(x, y) * 4 + 1]!
      const metres = drawn.place[at(x, y) * 4]!
      const n = at(x, y) * 4
      let edge = false
      let slope = 0
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const other = at(x + dx, y + dy) * 4
          // Another thing, a step in depth, or a crease
          if (
            drawn.place[other + 1] !== name ||
            Math.abs(drawn.place[other]! - metres) > 0.25 ||
            [0, 1, 2].reduce((sum, c) => sum + drawn.normal[n + c]! * drawn.normal[other + c]!, 0) < 0.98
          )
            edge = true
          slope = Math.max(slope, Math.abs(drawn.place[other]! - metres))
        }
      if (!edge) out.push({ pixel: y * WIDTH + x, theirs: at(x, y), slope })
    }
  return out
}

it('every mesh of the file is known by its name', () => expect(drawn.unknown).toEqual([]))
it('each pixel shows the same thing, as far away, facing the same way', () => {
  const pixels = inner()
  const seen = new Set<number>()
  expect(pixels.length).toBeGreaterThan(WIDTH * HEIGHT * 0.3)
  let names = 0
  let far = 0
  let turned = 0
  let things = 0
  for (const { pixel, theirs, slope } of pixels) {
    const name = drawn.place[theirs * 4 + 1]!
    if (ours.objectId[pixel] !== name) {
      names++
      continue
    }
    seen.add(name)
    if (!name) {
      expect(ours.depth[pixel]).toBeGreaterThan(NO_DEPTH / 2)
      continue
    }
    things++
    if (Math.abs(ours.depth[pixel]! - drawn.place[theirs * 4]!) > 2e-4 + slope / 16) far++
    const long = Math.hypot(...[0, 1, 2].map(c => ours.normal[pixel * 3 + c]!))
    if (
      long < 0.9 ||
      [0, 1, 2].reduce((sum, c) => sum + (ours.normal[pixel * 3 + c]! / long) * drawn.normal[theirs * 4 + c]!, 0) <
        0.999
    )
      turned++
  }
  expect(seen.size).toBeGreaterThan(8)
  // Surfaces that lie in one another are resolved by depth steps there, by order here
  expect(names / pixels.length).toBeLessThan(2e-3)
  expect(far / things).toBeLessThan(2e-3)
  expect(turned / things).toBeLessThan(5e-3)
})
