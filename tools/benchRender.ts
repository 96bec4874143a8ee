// Speed of the renderer as a whole, of taking noise out, and of OpenEXR against OpenImageIO.
import bunny from 'bunny'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { byteRestorer } from '../core/engine/unpack'
import { useRestorer } from '../core/formats/exr/bytes'
import { emptyWindow, readExr, writeExr, type ExrChannel } from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import { compileScene, type CompiledScene } from '../core/render/compile'
import { denoisePasses, guidePasses } from '../core/render/denoise'
import { DEFAULT_PASSES, PASSES } from '../core/render/passes'
import { Render } from '../core/render/render'
import type { Camera, Material, Scene } from '../core/scene/scene'
import { identity } from '../core/scene/vector'
import { kernelModule, startEngine, useNode } from '../host/engine'
import { middle, type Figure } from './figures'

const took = (work: () => void): number => {
  const start = performance.now()
  work()
  return performance.now() - start
}
const matt = (name: string, colour: [number, number, number]): Material => ({
  name,
  baseColour: [...colour, 1],
  metallic: 0,
  roughness: 0.5,
  emission: [0, 0, 0],
  alphaMode: 'opaque',
  alphaCutoff: 0.5,
  normalScale: 1,
  doubleSided: true,
})

/** The bunny on a table under a lamp and a grey sky. */
export function table(): { scene: Scene; camera: Camera } {
  const positions = Float32Array.from(bunny.positions.flat())
  const indices = Uint32Array.from(bunny.cells.flat())
  const floor = Math.min(...positions.filter((_, i) => i % 3 === 1))
  const scene: Scene = {
    objects: [
      {
        name: 'bunny',
        matrix: identity(),
        parts: [{ positions, indices, material: 0 }],
        role: 'object',
        hidden: false,
        absent: false,
      },
      {
        name: 'table',
        matrix: identity(),
        parts: [
          {
            positions: Float32Array.from([-20, floor, 20, 20, floor, 20, 20, floor, -20, -20, floor, -20]),
            indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
            material: 1,
          },
        ],
        role: 'object',
        hidden: false,
        absent: false,
      },
    ],
    materials: [matt('bunny', [0.7, 0.6, 0.5]), matt('table', [0.4, 0.5, 0.4])],
    lights: [
      {
        kind: 'box',
        name: 'lamp',
        centre: [8, 20, 10],
        halfU: [2, 0, 0],
        halfV: [0, 0, 2],
        normal: [0, -1, 0],
        radiance: [30, 30, 28],
      },
    ],
    cameras: [],
    notes: [],
    environment: {
      width: 16,
      height: 8,
      pixels: new Float32Array(16 * 8 * 4).fill(0.5),
      turn: 0,
      gain: [1, 1, 1],
      seenByCamera: true,
    },
  }
  return {
    scene,
    camera: {
      name: 'camera',
      matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -0.5, 5, 24, 1],
      focalLength: 50,
      sensorWidth: 36,
      shiftX: 0,
      shiftY: 0,
    },
  }
}
function render(
  pool: Pool,
  compiled: CompiledScene,
  camera: Camera,
  width: number,
  height: number,
  samples: number,
  passes: readonly string[],
  keepNoise = false,
): Render {
  const job = new Render(pool, compiled, {
    width,
    height,
    samples,
    passes,
    keepNoise,
    camera,
    maxBounces: 4,
    seeEnvironment: true,
  })
  while (!job.done) job.step(16)
  return job
}

export async function renderFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  const out: Figure[] = []
  const put = (name: string, value: number, unit: string, against: string, ratio: number): void => {
    if (wanted(name)) out.push({ name, value, unit, against, ratio })
  }
  const { scene, camera } = table()
  if (['render.data', 'render.memory', 'render.rays'].some(wanted)) {
    const pool = new Pool(new Kernels(kernelModule()))
    const compiled = compileScene(pool.kernels, scene)
    const data = PASSES.filter(pass => !pass.needs || ['surface', 'place'].includes(pass.needs))
      .map(pass => pass.id)
      .filter(id => DEFAULT_PASSES.includes(id))
    const light = [...DEFAULT_PASSES]
    const times = { data: [] as number[], light: [] as number[] }
    for (let i = 0; i < 4; i++) {
      times.light.push(took(() => render(pool, compiled, camera, 240, 160, 8, light).dispose()))
      times.data.push(took(() => render(pool, compiled, camera, 240, 160, 8, data).dispose()))
    }
    put(
      'render.data',
      middle(times.data),
      'ms',
      'the same frame with light (10 asked for)',
      middle(times.light) / middle(times.data),
    )
    // Rays of whole paths, and the caster alone on as many of the same kinds
    pool.kernels.exports.resetCasts()
    const paths = took(() => render(pool, compiled, camera, 240, 160, 16, ['beauty']).dispose())
    const cast = pool.kernels.exports.casts()
    const kept = pool.kernels.allocate(cast * 32 > 64e6 ? 64e6 : cast * 32)
    const number = Math.floor(Math.min(64e6, cast * 32) / 32)
    const results = pool.kernels.allocate(number * 16)
    const rays = pool.kernels.floats(kept, number * 8)
    let state = 7
    const random = (): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0
      return state / 4294967296
    }
    // A third from the camera, the rest from about the bunny in all directions
    for (let i = 0; i < number; i++) {
      const away = i % 3 === 0
      const z = random() * 2 - 1
      const a = random() * 2 * Math.PI
      const r = Math.sqrt(1 - z * z)
      rays.set(
        away
          ? [-0.5, 5, 24, 0, (random() - 0.5) * 0.72, (random() - 0.5) * 0.48, -1, 1e30]
          : [random() * 12 - 6, random() * 9, random() * 8 - 4, 0, r * Math.cos(a), z, r * Math.sin(a), 1e30],
        i * 8,
      )
    }
    const bare =
      middle(
        [0, 1, 2].map(() => took(() => pool.kernels.exports.castRays(compiled.pointer, kept, results, number, 0))),
      ) / number
    put('render.rays', cast / paths / 1000, 'million rays/s', 'the bare caster (0.5 asked for)', (bare * cast) / paths)
    pool.kernels.dispose(kept)
    pool.kernels.dispose(results)
    compiled.dispose()
    const before = pool.kernels.used
    const whole = compileScene(pool.kernels, scene)
    const bytes = (pool.kernels.used - before) / whole.triangles
    put('render.memory', bytes, 'bytes/triangle', '130 bytes', 130 / bytes)
    whole.dispose()
  }
  if (wanted('render.threads')) {
    const times: number[] = []
    for (const threads of [1, 2]) {
      const engine = await startEngine(threads)
      const compiled = compileScene(engine.kernels, scene)
      times.push(
        middle(
          [0, 1, 2].map(() => took(() => render(engine.pool, compiled, camera, 240, 160, 16, ['beauty']).dispose())),
        ),
      )
      engine.stop()
    }
    put('render.threads', times[1]!, 'ms', 'one thread (1.85 asked for)', times[0]! / times[1]!)
  }
  if (wanted('render.denoise')) {
    const engine = await startEngine(2)
    const compiled = compileScene(engine.kernels, scene)
    const job = render(
      engine.pool,
      compiled,
      camera,
      1280,
      720,
      4,
      ['beauty', 'alpha', ...guidePasses(['beauty'], scene.materials)],
      true,
    )
    const passes = job.snapshot()
    const mine = middle(
      [0, 1, 2].map(() =>
        took(() => {
          denoisePasses(engine.pool, passes)
        }),
      ),
    )
    put('render.denoise', mine, 'ms', 'aim of 1500 ms at 1280x720', 1500 / mine)
    job.dispose()
    engine.stop()
  }
  if (wanted('exr.oiio')) out.push(...exrAgainstOiio())
  return out
}

/** 40 channels of half, ZIP, 1920x1080, one thread each. */
function exrAgainstOiio(): Figure[] {
  useNode()
  useRestorer(byteRestorer(new Kernels(kernelModule())))
  const width = 1920
  const height = 1080
  const count = width * height
  const folder = mkdtempSync(join(tmpdir(), 'northmist-'))
  const path = join(folder, 'a.exr')
  try {
    const channels = Array.from({ length: 40 }, (_, c): ExrChannel => ({
      name: `C${String(c).padStart(2, '0')}`,
      type: 'half',
      linear: false,
      data: floatsToHalves(
        Float32Array.from(
          { length: count },
          (_, i) => Math.sin(i * 0.001 * (c + 1)) + ((i * 2654435761) % 1000) / 50000,
        ),
      ),
    }))
    const image = {
      dataWindow: emptyWindow(width, height),
      displayWindow: emptyWindow(width, height),
      compression: 'zip' as const,
      channels,
      attributes: [],
    }
    let file: Uint8Array = new Uint8Array()
    const write = took(() => {
      file = writeExr(image)
    })
    writeFileSync(path, file)
    const read = middle(
      [0, 1, 2].map(() =>
        took(() => {
          readExr(file)
        }),
      ),
    )
    const theirs = JSON.parse(
      execFileSync(
        '/usr/bin/python3',
        [
          '-c',
          `
import OpenImageIO as o, time, json
o.attribute('threads', 1); o.attribute('exr_threads', 1)
t = time.time(); i = o.ImageInput.open('${path}'); p = i.read_image(0, 40, o.HALF); s = i.spec(); i.close(); read = time.time() - t
t = time.time(); w = o.ImageOutput.create('${folder}/b.exr'); s.attribute('compression', 'zip'); w.open('${folder}/b.exr', s); w.write_image(p); w.close(); write = time.time() - t
print(json.dumps([read * 1000, write * 1000]))`,
        ],
        { encoding: 'utf8' },
      ),
    ) as [number, number]
    return [
      {
        name: 'exr.oiio.read',
        value: read,
        unit: 'ms',
        against: 'OpenImageIO, one thread (0.5 asked for)',
        ratio: theirs[0] / read,
      },
      {
        name: 'exr.oiio.write',
        value: write,
        unit: 'ms',
        against: 'OpenImageIO, one thread (0.5 asked for)',
        ratio: theirs[1] / write,
      },
    ]
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
