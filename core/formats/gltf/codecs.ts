// Decoders that few scenes need and that are large: of Draco meshes and of Basis Universal pictures in KTX2. They come
// with three.js as scripts beside their compiled modules; where the files lie is the platform's to say.
import { BadInput, checkSize } from '../errors'
import type { CodedPicture } from '../png/png'

export type CodecFile =
  | 'draco/draco_wasm_wrapper.js'
  | 'draco/draco_decoder.wasm'
  | 'basis/basis_transcoder.js'
  | 'basis/basis_transcoder.wasm'
let bytesOf: ((file: CodecFile) => Promise<Uint8Array>) | undefined
/** Says how the platform reads the decoders' files. */
export function useCodecFiles(read: (file: CodecFile) => Promise<Uint8Array>): void {
  bytesOf = read
}

/**
 * Runs a decoder's script, which is no module: its variables stay its own, and it finds neither Node nor a page to look
 * for files in.
 */
async function moduleOf<Module>(name: string, script: CodecFile, binary: CodecFile): Promise<Module> {
  if (!bytesOf) throw new BadInput('the decoders of compressed meshes and pictures are not at hand')
  const [text, wasmBinary] = await Promise.all([bytesOf(script), bytesOf(binary)])
  const make = new Function(
    'process',
    'require',
    'module',
    'exports',
    'define',
    'window',
    'document',
    '__filename',
    `${new TextDecoder().decode(text)}\nreturn ${name}`,
  )() as (options: object) => Promise<Module>
  return make({ wasmBinary, print: () => undefined, printErr: () => undefined })
}

/** A new decoder of Draco meshes: one that fell over damaged bytes is of no more use. */
export const dracoDecoder = (): Promise<object> =>
  moduleOf<object>('DracoDecoderModule', 'draco/draco_wasm_wrapper.js', 'draco/draco_decoder.wasm')

interface Ktx2File {
  isValid(): boolean
  getWidth(): number
  getHeight(): number
  getFaces(): number
  startTranscoding(): number
  getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number
  transcodeImage(
    out: Uint8Array,
    level: number,
    layer: number,
    face: number,
    format: number,
    wantsAlpha: number,
    channelA: number,
    channelB: number,
  ): number
  close(): void
  delete(): void
}
interface Basis {
  initializeBasis(): void
  KTX2File: new (bytes: Uint8Array) => Ktx2File
}
/** Number of the format RGBA, 8 bit, in the transcoder. */
const RGBA32 = 13

const KTX2 = [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a]
export const isKtx2 = (bytes: Uint8Array): boolean => bytes.length > 80 && KTX2.every((value, i) => bytes[i] === value)

/** A decoder of KTX2 pictures: their largest level, as codes. The decoder throws BadInput. */
export async function ktx2Decoder(): Promise<(bytes: Uint8Array) => CodedPicture> {
  const basis = await moduleOf<Basis>('BASIS', 'basis/basis_transcoder.js', 'basis/basis_transcoder.wasm')
  basis.initializeBasis()
  return bytes => {
    // The header says the size (KTX 2.0 specification, section 2): looked at before any memory is taken
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    checkSize('A KTX2 picture', view.getUint32(20, true), view.getUint32(24, true))
    let file: Ktx2File | undefined
    try {
      file = new basis.KTX2File(bytes)
      const width = file.getWidth()
      const height = file.getHeight()
      if (!file.isValid() || !width || !height || !file.startTranscoding()) throw new Error()
      const data = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32))
      if (data.length !== width * height * 4 || !file.transcodeImage(data, 0, 0, 0, RGBA32, 0, -1, -1))
        throw new Error()
      file.close()
      file.delete()
      return { width, height, channels: 4, maximum: 255, data }
    } catch {
      // Whatever it fell over: bytes that no encoder writes
      throw new BadInput('a KTX2 picture is damaged')
    }
  }
}
