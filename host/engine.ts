// Kernels and a pool of threads on Node.
import { readFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { deflateSync, inflateSync } from 'node:zlib'
import { Kernels } from '../core/engine/memory'
import { byteRestorer } from '../core/engine/unpack'
import { Pool } from '../core/engine/pool'
import { useRestorer } from '../core/formats/exr/bytes'
import { useCodecFiles } from '../core/formats/gltf/codecs'
import { useZlib } from '../core/formats/zlib'
import { projectRoot } from './root'

/** What the core leaves to the platform: zlib, and where decoders lie. */
export function useNode(): void {
  useCodecFiles(async file =>
    readFileSync(join(projectRoot(), 'node_modules/three/examples/jsm/libs', file.replace('draco/', 'draco/gltf/'))),
  )
  useZlib({
    inflate: (data, size) => inflateSync(data, { maxOutputLength: Math.max(1, size) }),
    deflate: data => deflateSync(data, { level: 4 }),
  })
}

let compiled: WebAssembly.Module | undefined
export function kernelModule(): WebAssembly.Module {
  return (compiled ??= new WebAssembly.Module(readFileSync(join(projectRoot(), 'kernels/build/northmist.wasm'))))
}

export interface Engine {
  kernels: Kernels
  pool: Pool
  stop(): void
}

/** An engine with so many threads in all (the calling one included). Default: one a core. */
export async function startEngine(threads = availableParallelism()): Promise<Engine> {
  useNode()
  const kernels = new Kernels(kernelModule())
  const pool = new Pool(kernels)
  useRestorer(byteRestorer(kernels))
  const workers: Worker[] = []
  for (let i = 1; i < threads; i++) {
    const worker = new Worker(join(projectRoot(), '.build/bandWorker.mjs'), { workerData: pool.addWorker() })
    await new Promise<void>((resolve, reject) => {
      worker.once('message', () => resolve())
      worker.once('error', reject)
    })
    worker.unref()
    workers.push(worker)
  }
  return {
    kernels,
    pool,
    stop: () => {
      pool.stop()
      for (const worker of workers) void worker.terminate()
    },
  }
}
