// Frames of clips when they are asked for: decoded from the video's own file, kept in a bounded folder beside the store
// (least lately used go first), so that footage takes no more room than its file and that.
import { randomBytes } from 'node:crypto'
import { existsSync } from 'node:fs'
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { BadInput } from '../core/formats/errors'
import { MAXIMUM_MANIFEST, parseClipFrame, readManifest, type ClipManifest } from '../core/shot/clip'
import { decodeFrames, type FrameRun, type VideoFrame } from './videoFrames'

/** Where the files of clips are. */
export interface FileSource {
  path(blob: string): string
  get(blob: string): Promise<Uint8Array>
}

const MEGABYTE = 2 ** 20
/** Bytes of decoded frames that are kept. */
const MOST_KEPT = Math.max(16, Number(process.env.NORTHMIST_FRAMES_MB) || 2048) * MEGABYTE
/** Frames decoded at once around the one that is asked for: some before it, the rest from it on. */
const AROUND = { small: { before: 12, after: 48 }, full: { before: 2, after: 8 } }
/** Bytes of full frames that one run may hold before they are on the disk. */
const MOST_IN_RUN = 256 * MEGABYTE
const MOST_RUNS = 2
const HASHES = 'hashes'

interface Waiter {
  at: number
  take(bytes: Uint8Array): void
  fail(error: unknown): void
}
/** A decoding under way: places of the clip from `next` to before `end` are still to come. */
interface Run {
  next: number
  end: number
  waiters: Waiter[]
}

export class ClipFrames {
  private manifests = new Map<string, ClipManifest>()
  private runs = new Map<string, Run[]>()
  private running = 0
  private queue: (() => void)[] = []
  private written = 0

  /** `folder`: for frames alone. */
  constructor(
    readonly folder: string,
    private files: FileSource,
    private most = MOST_KEPT,
  ) {}

  private path(clip: string, at: number | string, small = false): string {
    return join(this.folder, clip, typeof at === 'string' ? at : `${at}.${small ? 'jpg' : 'png'}`)
  }

  /** The picture of a frame by its name (clipFrame). Throws BadInput when it cannot be decoded. */
  async get(name: string): Promise<Uint8Array> {
    const asked = parseClipFrame(name)
    if (!asked) throw new BadInput('That is no name of a frame.')
    const { clip, at, small } = asked
    const kept = await this.kept(clip, at, small)
    const manifest = await this.manifest(clip)
    const { length } = manifest.frames
    if (at >= length) throw new BadInput(`“${manifest.name}” has ${length} frames; ${at + 1} is none of them.`)
    if (!manifest.video) {
      const frame = manifest.frames[at]
      if (kept) return kept
      if (!frame) throw new BadInput(`Frame ${manifest.first + at} of “${manifest.name}” is missing.`)
      return this.files.get(frame)
    }
    // Playing goes on to where nothing is decoded yet
    const ahead = at + AROUND.small.after / 2
    if (kept) {
      if (small && ahead < length && !existsSync(this.path(clip, ahead, true)) && !this.running)
        this.decoded(clip, manifest, ahead, true).catch(() => {})
      return kept
    }
    return this.decoded(clip, manifest, at, small)
  }

  private async manifest(clip: string): Promise<ClipManifest> {
    const known = this.manifests.get(clip)
    if (known) return known
    if ((await stat(this.files.path(clip))).size > MAXIMUM_MANIFEST) throw new BadInput('That is no clip.')
    const manifest = readManifest(await this.files.get(clip), clip)
    if (this.manifests.size > 50) this.manifests.clear()
    this.manifests.set(clip, manifest)
    return manifest
  }

  private async kept(clip: string, at: number, small: boolean): Promise<Uint8Array | undefined> {
    const path = this.path(clip, at, small)
    const bytes = await readFile(path).catch(() => undefined)
    if (!bytes || bytes.length < 16) return undefined
    // Frames are not synced to the disk: one that a power cut left short is decoded again
    const whole = small ? bytes.readUInt16BE(bytes.length - 2) === 0xffd9 : bytes.indexOf('IEND', -8) > 0
    if (!whole) return undefined
    const now = new Date()
    utimes(path, now, now).catch(() => {})
    return bytes
  }

  private decoded(clip: string, manifest: ClipManifest, at: number, small: boolean): Promise<Uint8Array> {
    const key = `${clip} ${small}`
    const runs = this.runs.get(key) ?? []
    this.runs.set(key, runs)
    return new Promise((resolve, reject) => {
      const waiter: Waiter = { at, take: resolve, fail: reject }
      const under = runs.find(run => run.next <= at && at < run.end)
      if (under) {
        under.waiters.push(waiter)
        return
      }
      const { before, after } = AROUND[small ? 'small' : 'full']
      const frameBytes = manifest.width * manifest.height * (manifest.source.alpha ? 8 : 6)
      const many = small ? after : Math.max(1, Math.min(after, Math.floor(MOST_IN_RUN / frameBytes)))
      const run: Run = {
        next: Math.max(0, at - (many < after ? 0 : before)),
        end: Math.min(manifest.frames.length, at + many),
        waiters: [waiter],
      }
      runs.push(run)
      void this.inTurn(() => this.decode(clip, manifest, run, small))
        .catch((error: unknown) => run.waiters.forEach(({ fail }) => fail(error)))
        .finally(() => {
          runs.splice(runs.indexOf(run), 1)
        })
    })
  }

  private async inTurn(work: () => Promise<void>): Promise<void> {
    if (this.running >= MOST_RUNS) await new Promise<void>(resolve => this.queue.push(resolve))
    this.running++
    try {
      await work()
    } finally {
      this.running--
      this.queue.shift()?.()
    }
  }

  private async decode(clip: string, manifest: ClipManifest, run: Run, small: boolean): Promise<void> {
    const hashes = await this.hashes(clip)
    let fault: unknown
    for (const fromStart of [false, true]) {
      try {
        await this.attempt(clip, manifest, run, { small, fromStart, hashes })
        return
      } catch (error) {
        fault = error
      }
    }
    throw new BadInput(
      `Frame ${run.next + 1} of “${manifest.name}” cannot be decoded: ${(fault as Error).message.replace(/\.$/, '')}.`,
    )
  }

  /** Throws when a frame is not the one that stands there by its time or, where they are known, its pixels. */
  private async attempt(
    clip: string,
    manifest: ClipManifest,
    run: Run,
    { small, fromStart, hashes }: { small: boolean; fromStart: boolean; hashes?: Map<number, string> },
  ): Promise<void> {
    const { ticks, shown } = manifest.video!
    const sourceOf = (at: number): number => (shown ? shown[at]! : at)
    if (run.next >= run.end) return
    const from = sourceOf(run.next)
    const order: FrameRun = { kind: small ? 'small' : 'full', from, count: sourceOf(run.end - 1) - from + 1, fromStart }
    let source = from
    for await (const { tick, hash, bytes } of decodeFrames(this.files.path(manifest.video!.blob), manifest, order)) {
      const known = hashes?.get(tick)
      const other = known !== undefined && known !== hash
      if (tick !== ticks[source] || (other && !fromStart)) throw new Error('what is decoded there is another frame')
      // From the start it is what it is: what was noted was decoded by another ffmpeg
      if (other) await rm(this.path(clip, HASHES), { force: true })
      while (run.next < run.end && sourceOf(run.next) === source) {
        const at = run.next++
        run.waiters = run.waiters.filter(waiter => {
          if (waiter.at === at) waiter.take(bytes!)
          return waiter.at !== at
        })
        await this.keep(clip, at, small, bytes!)
      }
      source++
    }
    if (run.next < run.end) throw new Error('the video ends before it')
  }

  /** Keeps a frame's picture. A disk that is full keeps none; the frame is decoded again when it is wanted. */
  async keep(clip: string, at: number | string, small: boolean, bytes: Uint8Array | string): Promise<void> {
    const path = this.path(clip, at, small)
    const beside = `${path}.${randomBytes(4).toString('hex')}`
    try {
      await mkdir(join(this.folder, clip), { recursive: true })
      await writeFile(beside, bytes)
      await rename(beside, path)
    } catch {
      await rm(beside, { force: true }).catch(() => {})
      return
    }
    this.written += bytes.length
    if (this.written > this.most / 16) {
      this.written = 0
      await this.shorten()
    }
  }

  /** What a whole decoding gave, frame by frame, by which later ones are compared. */
  async keepHashes(clip: string, frames: Pick<VideoFrame, 'tick' | 'hash'>[]): Promise<void> {
    await this.keep(clip, HASHES, false, frames.map(({ tick, hash }) => `${tick} ${hash}\n`).join(''))
  }
  private async hashes(clip: string): Promise<Map<number, string> | undefined> {
    const text = await readFile(this.path(clip, HASHES), 'utf8').catch(() => undefined)
    return (text &&
      new Map(
        text
          .split('\n')
          .filter(line => /^-?\d+ [0-9a-f]+$/.test(line))
          .map(line => line.split(' ') as [string, string])
          .map(([tick, hash]) => [Number(tick), hash]),
      )) as Map<number, string> | undefined
  }

  /** What was decoded under one name is of another now. */
  async move(clip: string, to: string): Promise<void> {
    await rm(join(this.folder, to), { recursive: true, force: true })
    await rename(join(this.folder, clip), join(this.folder, to)).catch(() => {})
  }
  async forget(clip: string): Promise<void> {
    await rm(join(this.folder, clip), { recursive: true, force: true })
  }

  private async *listed(): AsyncGenerator<{ path: string; bytes: number; at: number }> {
    for (const clip of await readdir(this.folder).catch(() => []))
      for (const file of await readdir(join(this.folder, clip)).catch(() => [])) {
        const path = join(this.folder, clip, file)
        const facts = await stat(path).catch(() => undefined)
        if (facts) yield { path, bytes: facts.size, at: facts.mtimeMs }
      }
  }

  /** Bytes and files that are kept. */
  async used(): Promise<{ bytes: number; files: number }> {
    const used = { bytes: 0, files: 0 }
    for await (const { bytes } of this.listed()) {
      used.bytes += bytes
      used.files++
    }
    return used
  }

  /** Takes away what was used longest ago until a tenth of what may be kept is free. */
  async shorten(): Promise<void> {
    const files = []
    let bytes = 0
    for await (const file of this.listed()) {
      files.push(file)
      bytes += file.bytes
    }
    if (bytes <= this.most) return
    files.sort((a, b) => a.at - b.at)
    for (const file of files) {
      if (bytes <= this.most * 0.9) break
      if (file.path.endsWith(HASHES)) continue
      await rm(file.path, { force: true })
      bytes -= file.bytes
    }
  }

  /** Takes away the frames of clips that are no longer there. */
  async sweep(isThere: (clip: string) => boolean): Promise<void> {
    for (const clip of await readdir(this.folder).catch(() => [])) if (!isThere(clip)) await this.forget(clip)
  }
}
