// Files brought in: sent to the store, told by content, read for size, encoding and alpha. Videos and numbered files
// become clips on the server.
import { bringLayer, bringPlate } from '../../core/shot/bring'
import { bringElement } from '../../core/shot/elements'
import { bringFigure, takeTouching } from '../../core/shot/figures'
import { addRender } from '../../core/shot/layers'
import type { BlobReference, PassFileReference, PictureReference, ShotDocument } from '../../core/shot/document'
import { useTrack } from '../../core/shot/track'
import { readSmall } from '../../core/formats/picture/small'
import { readCube } from '../../core/formats/cube/cube'
import { findSequences } from '../../core/shot/sequence'
import type { IMPORTED_AS, StartImport } from '../../shared/requests'
import { useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'
import { upload } from './api'
import type { PassDescription } from '~/workers/messages'
import { engine } from './engine'

export const PICTURES = '.png,.jpg,.jpeg,.tif,.tiff,.hdr,.exr'
export const VIDEOS = '.mov,.mp4,.m4v,.webm,.mkv,.avi'

export interface BroughtPicture {
  reference: PictureReference
  notes: string[]
}

/** Sends a picture file; what is guessed of it comes with its reason. */
export async function bringPicture(file: File, progress?: (share: number) => void): Promise<BroughtPicture> {
  const { width, height, encoding, reason, alpha, facts, notes } = await engine.describe(file)
  const { blob } = await upload(file, progress)
  return {
    reference: { blob, name: file.name.slice(0, 300), encoding, alpha, width, height, guessed: reason, facts },
    notes,
  }
}

/** Sends a colour table. Throws what is wrong with it. */
export async function bringTable(file: File): Promise<BlobReference> {
  const sent = await upload(file)
  if (sent.kind !== 'cube') throw new Error(`“${file.name}” is no .cube table.`)
  readCube(new Uint8Array(await file.arrayBuffer()))
  return { blob: sent.blob, name: file.name.slice(0, 300) }
}

/** Sends a small picture that says a shape. Throws what is wrong with it. */
export async function bringSmall(file: File): Promise<BlobReference> {
  await readSmall(new Uint8Array(await file.arrayBuffer()))
  const { blob } = await upload(file)
  return { blob, name: file.name.slice(0, 300) }
}

/**
 * Sends a scene; one of another format, or in several files, becomes one .glb first. What of it is not used comes as
 * notes.
 */
export async function bringScene(
  files: File[],
  progress?: (share: number) => void,
): Promise<{ blob: string; name: string; notes: string[] }> {
  let file = files[0]!
  let notes: string[] = []
  if (files.length > 1 || !/\.(glb|gltf)$/i.test(file.name)) {
    // The readers of other formats are only fetched when there is something to read
    const { sceneAsGlb } = await import('../../core/formats/mesh/mesh')
    const made = await sceneAsGlb(
      await Promise.all(files.map(async one => ({ name: one.name, bytes: new Uint8Array(await one.arrayBuffer()) }))),
    )
    file = new File([new Uint8Array(made.bytes)], made.name)
    notes = made.notes
  }
  const sent = await upload(file, progress)
  if (sent.kind !== 'gltf') throw new Error(`“${file.name}” is no glTF scene.`)
  return { blob: sent.blob, name: file.name.slice(0, 300), notes }
}

/**
 * Reads a sent scene for a document before it becomes part of it: a broken one throws and changes nothing. Returns what
 * it changes, as a mutation, and what there is to say about where it stands.
 */
export async function readScene(
  document: ShotDocument,
  reference: BlobReference,
  frame: number,
): Promise<{ take: (document: ShotDocument) => void; words: string[] }> {
  const next = JSON.parse(JSON.stringify(document)) as ShotDocument
  next.scene.file = reference
  await engine.sceneInfo(next, frame)
  const camera = await engine.fileCamera(next)
  // A camera that moves in the file comes along as a track
  const track = await engine.track(next, reference.blob).catch(() => null)
  const moves = !!track && track.frames.length > 1
  // Its own camera sees it; without one it is put where the shot's camera does
  const { place, words } =
    moves || camera ? { place: undefined, words: undefined } : await engine.placeFile(next, frame)
  return {
    take: own => {
      own.scene.file = reference
      if (moves) useTrack(own, reference, track, own.frames.first)
      // What was done to the camera while the file was read stays, a track above all
      else if (camera && !own.scene.track) own.scene.camera = camera
      if (place) own.scene.filePlace = place
      else delete own.scene.filePlace
    },
    words: words ? [words] : [],
  }
}

export const SCENES = '.glb,.gltf,.obj,.ply,.stl'
export const BESIDE_SCENES = '.bin,.mtl'
export const isScene = (file: File): boolean => /\.(glb|gltf|obj|ply|stl)$/i.test(file.name)
const isBeside = (file: File): boolean => /\.(bin|mtl)$/i.test(file.name)
/**
 * The scene among dropped files with what belongs to it, and the rest. Pictures belong to a scene in several files when
 * their names stand in it.
 */
export async function sceneOf(files: File[]): Promise<{ scene: File[]; rest: File[] }> {
  const main = files.find(isScene)
  if (!main) return { scene: [], rest: files }
  const told = [main, ...files.filter(file => /\.mtl$/i.test(file.name))].filter(
    file => !/\.(glb|ply|stl)$/i.test(file.name),
  )
  const text = (await Promise.all(told.map(file => file.slice(0, 1 << 26).text()))).join('\n')
  const belongs = (file: File): boolean =>
    file !== main && (isBeside(file) || (text.length > 0 && text.includes(file.name)))
  return { scene: [main, ...files.filter(belongs)], rest: files.filter(file => file !== main && !belongs(file)) }
}
export const NAMES = '.json'
/** More bytes are no list of names. */
const MOST_NAMES = 1 << 26
/**
 * Dropped files without lists of names, each OpenEXR with those that are its own put into it. Throws where a list belongs
 * to none of them.
 */
export async function withTheirNames(files: File[]): Promise<File[]> {
  const lists = files.filter(({ name }) => /\.json$/i.test(name))
  if (!lists.length) return files
  const rest = files.filter(file => !lists.includes(file))
  const large = lists.find(({ size }) => size > MOST_NAMES)
  if (large) throw new Error(`“${large.name}” is larger than 64 MiB: it is no list of names.`)
  const names = await Promise.all(lists.map(async list => ({ name: list.name, text: await list.text() })))
  let used = 0
  const named: File[] = []
  for (const file of rest) {
    const bytes = /\.exr$/i.test(file.name) ? await engine.withNames(file, names) : null
    if (bytes) used++
    named.push(bytes ? new File([new Uint8Array(bytes)], file.name, { lastModified: file.lastModified }) : file)
  }
  if (!used)
    throw new Error(
      `“${lists[0]!.name}” holds names: bring it together with the OpenEXR whose Cryptomatte they belong to.`,
    )
  return named
}
export const isVideo = (file: File): boolean => /\.(mov|mp4|m4v|webm|mkv|avi)$/i.test(file.name)

/** What is brought in at once: one still, one video, or the files of one sequence. */
export interface Footage {
  kind: 'still' | 'video' | 'sequence'
  files: File[]
  name: string
}

/** Sorts dropped files into footage. Throws with what there is when it cannot be one thing. */
export function footageOf(files: File[]): Footage[] {
  const videos = files.filter(isVideo)
  const rest = files.filter(file => !isVideo(file))
  const { sequences, singles } = findSequences(rest.map(file => file.name))
  return [
    ...videos.map((file): Footage => ({ kind: 'video', files: [file], name: file.name })),
    ...sequences.map((sequence): Footage => ({
      kind: 'sequence',
      files: [...sequence.files.values()].map(index => rest[index]!),
      name: `${sequence.before}${sequence.first}–${sequence.last}${sequence.after}`,
    })),
    ...singles.map((index): Footage => ({ kind: 'still', files: [rest[index]!], name: rest[index]!.name })),
  ]
}

const AT_ONCE = 4

async function sendAll(files: File[], progress: (share: number) => void): Promise<{ name: string; blob: string }[]> {
  const sent: { name: string; blob: string }[] = []
  let next = 0
  const lane = async (): Promise<void> => {
    while (next < files.length) {
      const at = next++
      const file = files[at]!
      sent[at] = { name: file.name.slice(0, 300), blob: (await upload(file)).blob }
      progress(sent.filter(Boolean).length / files.length)
    }
  }
  await Promise.all(Array.from({ length: Math.min(AT_ONCE, files.length) }, lane))
  return sent
}

/**
 * Brings passes into the open shot as a render layer of their own; those of several files are those of as many frames, from
 * the shot's first on. Returns its id.
 */
export async function bringPasses(
  { files, name }: Pick<Footage, 'files' | 'name'>,
  content: PassDescription,
  progress: (text: string) => void,
): Promise<string> {
  const shot = useShot()
  const sent = await sendAll(files, share => progress(`sending ${Math.round(share * 100)} %`))
  const frames =
    sent.length > 1 ? { first: shot.document!.frames.first, blobs: sent.map(({ blob }) => blob) } : undefined
  const named = name.slice(0, 300)
  let made = ''
  shot.change(`Add ${named}`.slice(0, 80), document => {
    const file = { blob: sent[0]!.blob, name: named, ...content, of: '', ...(frames ? { frames } : {}) }
    made = addRender(document, file, named.replace(/\.exr$/i, ''))
  })
  return made
}

/** What a picture shows by name, where it is a render that knows names; undefined for all others. */
export async function namedIn(file: File, { blob, name }: PictureReference): Promise<PassFileReference | undefined> {
  if (!/\.exr$/i.test(file.name)) return undefined
  const theirs = await engine.theirs(file)
  const content = theirs
    ? ((await engine.readSo(file, theirs.likely)).content as PassDescription | undefined)
    : await engine.describePasses(file)
  return content?.objects.length ? { blob, name, ...content, of: '' } : undefined
}

/** Brings a picture as a figure that stands on the ground by its feet. Returns its id. */
export async function bringAsFigure(file: File, progress: (text: string) => void): Promise<string> {
  const shot = useShot()
  const { reference } = await bringPicture(file, share => progress(`sending ${Math.round(share * 100)} %`))
  const names = await namedIn(file, reference)
  // Its feet are looked for before it is there: it comes as one change
  const tried = structuredClone(toRaw(shot.document!)) as ShotDocument
  const { id } = bringFigure(tried, reference, shot.frame)
  const found = await engine.touching(tried, shot.frame, id).catch(() => null)
  shot.change(`Add ${reference.name}`, document => {
    const made = bringFigure(document, reference, shot.frame, id)
    if (names) made.names = names
    if (found) takeTouching(made, found)
  })
  return id
}

/**
 * Brings footage into the open shot: a still at once, a clip by a job that the server goes on with. drawing: the stuck
 * drawing that a clip is drawn in.
 */
export async function bringFootage(
  footage: Footage,
  as: (typeof IMPORTED_AS)[number],
  progress: (text: string) => void,
  drawing?: StartImport['drawing'],
): Promise<string[]> {
  const shot = useShot()
  if (footage.kind === 'still') {
    const { reference, notes } = await bringPicture(footage.files[0]!, share =>
      progress(`sending ${Math.round(share * 100)} %`),
    )
    shot.change(as === 'plate' ? 'New plate' : `Add ${reference.name}`, document => {
      if (as === 'plate') bringPlate(document, reference)
      else if (as === 'element') bringElement(document, reference, shot.frame)
      else bringLayer(document, reference, shot.frame)
    })
    return notes
  }
  // Sending takes a while: it is for this shot, from this frame on, also where one has gone on by then
  const { id, frame } = shot
  const files =
    footage.kind === 'video'
      ? [
          {
            name: footage.name.slice(0, 300),
            blob: (await upload(footage.files[0]!, share => progress(`sending ${Math.round(share * 100)} %`))).blob,
          },
        ]
      : await sendAll(footage.files, share => progress(`sending ${Math.round(share * 100)} %`))
  if (shot.id === id) await shot.save()
  await useJobs().start(id, 'import', { files, as, frame, drawing })
  return []
}
