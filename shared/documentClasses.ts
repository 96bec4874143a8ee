// The shot document as class-validator classes: what the server lets in.
import 'reflect-metadata'
import { plainToInstance, Type } from 'class-transformer'
import {
  ArrayMaxSize,
  Equals,
  IsArray,
  IsBoolean,
  IsDefined,
  IsIn,
  IsInt,
  IsObject,
  IsOptional,
  IsString,
  Length,
  Max,
  Min,
  ValidateNested,
  validateSync,
  type ValidationError,
} from 'class-validator'
import { ENCODING_IDS } from '../core/colour/encoding'
import { VIEWS } from '../core/colour/view'
import { BLEND_MODES } from '../core/layer/modes'
import { MOST_CRYPTO_RANKS, PASS_IDS } from '../core/render/passes'
import { MOST_GROUPS } from '../kernels/assembly/layout'
import { MAXIMUM_FRAMES } from '../core/shot/clip'
import { MAXIMUM_POINTS } from '../core/scene/standin'
import { DESK_ROWS, DOCUMENT_VERSION, LIGHT_KINDS, type ShotDocument } from '../core/shot/document'
import { TREATMENTS } from '../core/treatment/registry'
import {
  IsAnimatable,
  IsAnimatableTriple,
  IsBlob,
  IsBlobOrNull,
  IsNames,
  IsNumbers,
  IsPlace,
  isAnimatable,
} from './decorators'

class FrameSize {
  @IsInt() @Min(1) @Max(32768) width!: number
  @IsInt() @Min(1) @Max(32768) height!: number
}
class Rate {
  @IsInt() @Min(1) @Max(1000000) numerator!: number
  @IsInt() @Min(1) @Max(1000000) denominator!: number
}
class Frames {
  @IsInt() @Min(-1000000) @Max(1000000) first!: number
  @IsInt() @Min(-1000000) @Max(1000000) last!: number
}
class BlobClass {
  @IsBlob() blob!: string
  @IsString() @Length(1, 300) name!: string
}
class FactsClass {
  @IsIn(['png', 'jpeg', 'tiff', 'hdr', 'exr']) format!: string
  @IsIn([8, 16, 32]) bits!: number
  @IsBoolean() float!: boolean
  @IsIn(['none', 'opaque', 'straight', 'premultiplied', 'unclear']) alpha!: string
  @IsOptional() @Min(1) @Max(5000) focalLength?: number
  @IsOptional() @Min(1) @Max(5000) focalLength35?: number
}
class TimingClass {
  @IsInt() @Min(-1000000) @Max(1000000) start!: number
  @IsInt() @Min(0) @Max(MAXIMUM_FRAMES) from!: number
  @IsInt() @Min(0) @Max(MAXIMUM_FRAMES) to!: number
  @Min(0.001) @Max(1000) speed!: number
  @IsBoolean() reverse!: boolean
  @IsIn(['nothing', 'hold', 'loop', 'mirror']) ends!: string
  @IsBoolean() blend!: boolean
  @IsIn(['frames', 'time']) conform!: string
  @IsOptional() @IsAnimatable(0, MAXIMUM_FRAMES) retime?: number
  @IsOptional() @IsInt() @Min(0) @Max(MAXIMUM_FRAMES) frozen?: number
}
class ClipClass {
  @IsInt() @Min(1) @Max(MAXIMUM_FRAMES) count!: number
  @IsDefined() @ValidateNested() @Type(() => Rate) rate!: Rate
  @IsDefined() @ValidateNested() @Type(() => TimingClass) timing!: TimingClass
  @IsDefined() @ValidateNested() @Type(() => Rate) pixelAspect!: Rate
  @IsInt() @Min(-1e9) @Max(1e9) first!: number
  @IsOptional() @IsString() @Length(0, 40) timecode?: string
  @IsInt() @Min(0) @Max(MAXIMUM_FRAMES) gaps!: number
  @IsOptional() @IsString() @Length(1, 400) missing?: string
  @IsOptional() @IsBoolean() interlaced?: boolean
  @IsOptional() @IsBoolean() uneven?: boolean
  @IsOptional() @ValidateNested() @Type(() => BlobClass) made?: BlobClass
}
class PictureClass extends BlobClass {
  @IsIn(ENCODING_IDS) encoding!: string
  @IsIn(['none', 'straight', 'premultiplied', 'ignore']) alpha!: string
  @IsInt() @Min(1) @Max(32768) width!: number
  @IsInt() @Min(1) @Max(32768) height!: number
  @IsOptional() @IsString() @Length(0, 300) guessed?: string
  @IsOptional() @ValidateNested() @Type(() => FactsClass) facts?: FactsClass
  @IsOptional() @ValidateNested() @Type(() => ClipClass) clip?: ClipClass
  @IsOptional() @ValidateNested() @Type(() => BlobClass) lut?: BlobClass
}
class EnvironmentClass extends PictureClass {
  @IsAnimatable() turn!: number
  @IsAnimatable(-30, 30) stops!: number
  @IsBoolean() seen!: boolean
  @IsOptional() @IsAnimatable(-100, 100) tint?: number
  @IsOptional() @IsBoolean() sunOut?: boolean
}
class CameraClass {
  @IsAnimatable(1, 5000) focalLength!: number
  @IsAnimatable(0.1, 1000) sensorWidth!: number
  @IsAnimatable() x!: number
  @IsAnimatable() y!: number
  @IsAnimatable() z!: number
  @IsAnimatable() heading!: number
  @IsAnimatable(-90, 90) pitch!: number
  @IsAnimatable() bank!: number
  @IsOptional() @IsAnimatable(-4, 4) shiftX?: number
  @IsOptional() @IsAnimatable(-4, 4) shiftY?: number
}
class LightClass {
  @IsString() @Length(1, 40) id!: string
  @IsString() @Length(1, 200) name!: string
  @IsIn(LIGHT_KINDS) kind!: string
  @IsBoolean() on!: boolean
  @IsAnimatable() azimuth!: number
  @IsAnimatable(-90, 90) elevation!: number
  @IsAnimatable(1667, 25000) kelvin!: number
  @IsAnimatable(-30, 30) stops!: number
  @IsAnimatable(0.01, 90) diameter!: number
  @IsAnimatable(0.001, 1000) width!: number
  @IsAnimatable(0.001, 1000) height!: number
  @IsAnimatable(0.01, 10000) distance!: number
  @IsAnimatableTriple() target!: number[]
  @IsOptional() @IsAnimatable(-100, 100) tint?: number
  @IsOptional() @IsBoolean() daylight?: boolean
  @IsOptional() @IsIn(['lumen', 'watt']) unit?: string
  @IsOptional() @IsAnimatable(0, 1e9) amount?: number
  @IsOptional() @IsAnimatable(1, 179) cone?: number
  @IsOptional() @IsAnimatable(0, 1) softness?: number
  @IsOptional() @IsString() @Length(1, 300) aim?: string
  @IsOptional() @IsString() @Length(0, 60) group?: string
}
class AirClass {
  @IsString() @Length(1, 40) id!: string
  @IsString() @Length(1, 200) name!: string
  @IsBoolean() on!: boolean
  @IsIn(['space', 'box', 'thing']) shape!: string
  @IsOptional() @IsString() @Length(1, 200) thing?: string
  @IsAnimatable() x!: number
  @IsAnimatable() y!: number
  @IsAnimatable() z!: number
  @IsAnimatable(0.001, 1e5) width!: number
  @IsAnimatable(0.001, 1e5) height!: number
  @IsAnimatable(0.001, 1e5) depth!: number
  @IsAnimatable(0.001, 1e6) half!: number
  @IsAnimatableTriple() colour!: number[]
  @IsAnimatable(-1, 1) forward!: number
  @IsAnimatable(0, 1) noise!: number
  @IsAnimatable(0.001, 1e5) noiseSize!: number
  @IsInt() @Min(0) @Max(2147483647) seed!: number
  @IsAnimatable() base!: number
  @IsAnimatable(0, 1e5) halfHeight!: number
}
class PinClass {
  @IsString() @Length(1, 40) id!: string
  @IsNumbers(3) local!: number[]
  @IsPlace() pixel!: number[]
}
class ObjectClass {
  @IsOptional() @IsAnimatableTriple() position?: number[]
  @IsOptional() @IsAnimatableTriple() rotation?: number[]
  @IsOptional() @IsAnimatable(1e-4, 1e4) scale?: number
  @IsOptional() @IsIn(['object', 'catcher', 'holdout']) role?: string
  @IsOptional() @IsBoolean() hidden?: boolean
  @IsOptional() @IsBoolean() absent?: boolean
  @IsOptional() @IsBoolean() locked?: boolean
  @IsOptional() @IsString() @Length(1, 200) group?: string
  @IsOptional() @IsBoolean() ofPlate?: boolean
  @IsOptional() @IsBoolean() letsThrough?: boolean
  @IsOptional() @IsBoolean() ownShadow?: boolean
  @IsOptional() @IsString() @Length(0, 60) lightGroup?: string
  @IsOptional() @IsBoolean() darkens?: boolean
  @IsOptional() @IsBoolean() darkened?: boolean
  @IsOptional() @IsAnimatable(0, 1) wet?: number
  @IsOptional() @IsAnimatable(0, 1) wetRoughness?: number
  @IsOptional() @IsAnimatable(0, 4) shadowDensity?: number
  @IsOptional() @IsAnimatableTriple() shadowColour?: number[]
  @IsOptional() @IsArray() @ArrayMaxSize(40) @ValidateNested({ each: true }) @Type(() => PinClass) pins?: PinClass[]
}
class AddedClass {
  @IsString() @Length(1, 300) name!: string
  @IsIn(['copy', 'standin']) kind!: string
  @IsOptional() @IsString() @Length(1, 300) of?: string
  @IsOptional() @IsIn(['box', 'cylinder', 'plane', 'ball', 'profile', 'outline']) shape?: string
  @IsOptional() @IsAnimatable(0.001, 100000) width?: number
  @IsOptional() @IsAnimatable(0.001, 100000) height?: number
  @IsOptional() @IsAnimatable(0.001, 100000) depth?: number
  @IsOptional() @IsArray() @ArrayMaxSize(MAXIMUM_POINTS) @IsPlace({ each: true }) points?: number[][]
  @IsOptional() @IsNumbers(3, 0, 1) colour?: number[]
  @IsOptional() @IsAnimatable(0, 1) roughness?: number
}
class PrintClass {
  @IsString() @Length(1, 40) id!: string
  @IsString() @Length(1, 200) name!: string
  @IsString() @Length(1, 300) on!: string
  @IsBoolean() shown!: boolean
  @IsDefined() @ValidateNested() @Type(() => PictureClass) picture!: PictureClass
  @IsIn(['front', 'camera']) from!: string
  @IsNumbers(16) matrix!: number[]
  @Min(0) @Max(1000) tangent!: number
  @IsAnimatable(0.0001, 10000) size!: number
  @IsAnimatable() turn!: number
  @IsAnimatable() shiftX!: number
  @IsAnimatable() shiftY!: number
  @IsAnimatable(0, 1) opacity!: number
  @IsBoolean() instead!: boolean
  @IsOptional() @IsAnimatable(0, 1) roughness!: number | null
}
class TrackClass extends BlobClass {
  @IsInt() @Min(-1000000) @Max(1000000) start!: number
  @IsInt() @Min(1) @Max(MAXIMUM_FRAMES) count!: number
  @IsInt() @Min(0) @Max(1000000) points!: number
  @IsOptional() @ValidateNested() @Type(() => Rate) rate?: Rate
}
class LensClass {
  @IsAnimatable(-2, 2) k1!: number
  @IsAnimatable(-2, 2) k2!: number
  @IsBoolean() on!: boolean
}
class FilePlaceClass {
  @IsNumbers(3, -1e9, 1e9) at!: number[]
  @Min(1e-6) @Max(1e6) times!: number
}
class SceneClass {
  @IsOptional() @ValidateNested() @Type(() => BlobClass) file!: BlobClass | null
  @IsOptional() @ValidateNested() @Type(() => FilePlaceClass) filePlace?: FilePlaceClass
  @IsObject() objects!: Record<string, unknown>
  @IsOptional() @IsNames() names?: Record<string, string>
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(2000)
  @ValidateNested({ each: true })
  @Type(() => AddedClass)
  added?: AddedClass[]
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(200)
  @ValidateNested({ each: true })
  @Type(() => PrintClass)
  prints?: PrintClass[]
  @IsOptional() @ValidateNested() @Type(() => TrackClass) track?: TrackClass | null
  @IsDefined() @ValidateNested() @Type(() => CameraClass) camera!: CameraClass
  @IsBoolean() fileLights!: boolean
  @IsArray() @ArrayMaxSize(500) @ValidateNested({ each: true }) @Type(() => LightClass) lights!: LightClass[]
  @IsOptional() @IsArray() @ArrayMaxSize(16) @ValidateNested({ each: true }) @Type(() => AirClass) volumes?: AirClass[]
  @IsOptional() @ValidateNested() @Type(() => EnvironmentClass) environment!: EnvironmentClass | null
}
class PassFramesClass {
  @IsInt() @Min(-1000000) @Max(1000000) first!: number
  @IsArray() @ArrayMaxSize(MAXIMUM_FRAMES) @IsBlobOrNull({ each: true }) blobs!: (string | null)[]
}
class PassFileClass extends FrameSize {
  @IsBlob() blob!: string
  @IsString() @Length(1, 300) name!: string
  @IsArray() @IsIn(PASS_IDS, { each: true }) passes!: string[]
  @IsArray() @ArrayMaxSize(65535) @IsString({ each: true }) objects!: string[]
  @IsOptional() @IsArray() @ArrayMaxSize(65535) @IsString({ each: true }) standIns?: string[]
  @IsArray() @ArrayMaxSize(65535) @IsString({ each: true }) materials!: string[]
  @IsOptional() @IsArray() @ArrayMaxSize(MOST_GROUPS) @IsString({ each: true }) lights?: string[]
  @IsOptional() @IsBoolean() clean?: boolean
  @IsOptional() @IsNames() stamps?: Record<string, string>
  @IsString() @Length(0, 100) of!: string
  @IsOptional() @ValidateNested() @Type(() => PassFramesClass) frames?: PassFramesClass
  @IsOptional() @IsNames() names?: Record<string, string>
  @IsOptional() @IsNumbers(2, 0, 32768) margin?: number[]
}
class MatchLineClass {
  @IsString() @Length(1, 40) id!: string
  @IsIn(['x', 'y', 'z']) axis!: string
  @IsPlace() from!: number[]
  @IsPlace() to!: number[]
}
class MatchPointClass {
  @IsString() @Length(1, 40) id!: string
  @IsString() @Length(1, 200) name!: string
  @IsNumbers(3) world!: number[]
  @IsPlace() pixel!: number[]
}
class MatchCurveClass {
  @IsString() @Length(1, 40) id!: string
  @IsArray() @ArrayMaxSize(200) @IsPlace({ each: true }) points!: number[][]
}
class MatchPoleClass {
  @IsString() @Length(1, 40) id!: string
  @Min(-100000) @Max(100000) x!: number
  @Min(-100000) @Max(100000) z!: number
  @Min(0.001) @Max(10000) height!: number
}
class MatchClass {
  @IsArray() @ArrayMaxSize(400) @ValidateNested({ each: true }) @Type(() => MatchLineClass) lines!: MatchLineClass[]
  @IsIn(['solve', 'keep']) focal!: string
  @IsArray() @ArrayMaxSize(400) @ValidateNested({ each: true }) @Type(() => MatchPoleClass) poles!: MatchPoleClass[]
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(400)
  @ValidateNested({ each: true })
  @Type(() => MatchPointClass)
  points?: MatchPointClass[]
  @IsOptional() @IsBoolean() pointsLens?: boolean
  @IsOptional() @IsBoolean() centre?: boolean
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(100)
  @ValidateNested({ each: true })
  @Type(() => MatchCurveClass)
  curves?: MatchCurveClass[]
}
class LimitsClass {
  @IsOptional() @IsInt() @Min(1) @Max(65536) light?: number
  @IsOptional() @IsInt() @Min(1) @Max(65536) shadow?: number
  @IsOptional() @IsInt() @Min(1) @Max(65536) occlusion?: number
  @IsOptional() @IsInt() @Min(1) @Max(65536) beyond?: number
}
class MistClass {
  @Min(0) @Max(1e6) near!: number
  @Min(0) @Max(1e6) far!: number
}
class OutlineClass {
  @Min(0.1) @Max(40) width!: number
  @Min(0) @Max(180) crease!: number
  @IsBoolean() materials!: boolean
  @Min(0) @Max(1e6) distance!: number
  @Min(0) @Max(1) waver!: number
  @Min(0.001) @Max(1e4) waverSize!: number
  @IsIn(['both', 'inside', 'outside']) side!: string
}
class InkClass {
  @IsAnimatable(0, 1) strength!: number
  @IsAnimatableTriple() colour!: number[]
  @IsAnimatable(0, 1) bite!: number
}
class PassesClass {
  @IsIn([1, 0.5, 0.25]) scale!: number
  @IsInt() @Min(1) @Max(65536) samples!: number
  @IsInt() @Min(0) @Max(2147483647) seed!: number
  @IsInt() @Min(0) @Max(64) bounces!: number
  @Min(0.001) @Max(100000) reach!: number
  @IsOptional() @Min(0) @Max(1e6) clamp?: number
  @IsOptional() @IsBoolean() denoise?: boolean
  @IsOptional() @ValidateNested() @Type(() => LimitsClass) limits?: LimitsClass
  @IsOptional() @Min(0.0001) @Max(1) noiseLevel?: number
  @IsOptional() @Min(0.01) @Max(100000) minutes?: number
  @IsOptional() @Min(0) @Max(16) falloff?: number
  @IsOptional() @Min(1) @Max(90) cone?: number
  @IsOptional() @ValidateNested() @Type(() => MistClass) mist?: MistClass
  @IsOptional() @ValidateNested() @Type(() => OutlineClass) outline?: OutlineClass
  @IsOptional() @IsInt() @Min(1) @Max(MOST_CRYPTO_RANKS) ranks?: number
  @IsArray() @IsIn(PASS_IDS, { each: true }) selected!: string[]
  @IsOptional() @ValidateNested() @Type(() => PassFileClass) file!: PassFileClass | null
}
class MatteClass {
  @IsArray() @ArrayMaxSize(65535) @IsString({ each: true }) names!: string[]
  @IsIn(['objects', 'materials']) of!: string
  @IsOptional() @IsIn(['straight', 'through', 'mirrored']) seen?: string
  @IsBoolean() invert!: boolean
}
class TreatmentClass {
  @IsString() @Length(1, 40) id!: string
  @IsIn(TREATMENTS.map(treatment => treatment.id)) kind!: string
  @IsBoolean() on!: boolean
  @IsAnimatable(0, 1) strength!: number
  @IsOptional() @ValidateNested() @Type(() => MatteClass) matte!: MatteClass | null
  @IsObject() values!: Record<string, unknown>
}
class LayerClass {
  @IsString() @Length(1, 40) id!: string
  @IsIn(['plate', 'render', 'picture']) kind!: string
  @IsString() @Length(1, 200) name!: string
  @IsBoolean() on!: boolean
  @IsAnimatable(0, 1) opacity!: number
  @IsIn(BLEND_MODES.map(mode => mode.id)) mode!: string
  @IsArray()
  @ArrayMaxSize(200)
  @ValidateNested({ each: true })
  @Type(() => TreatmentClass)
  treatments!: TreatmentClass[]
  @IsOptional() @IsAnimatable(0, 2) shadow?: number
  @IsOptional() @IsAnimatable(0, 1) occlusion?: number
  @IsOptional() @IsAnimatable(0, 1) clean?: number
  @IsOptional() @IsAnimatable(0, 4) wet?: number
  @IsOptional() @IsAnimatable(0, 1) air?: number
  @IsOptional() @ValidateNested() @Type(() => InkClass) ink?: InkClass
  @IsOptional() @ValidateNested() @Type(() => PictureClass) picture?: PictureClass
  @IsOptional() @IsAnimatable(0.001, 1e6) distance?: number
  @IsOptional() @IsAnimatable() x?: number
  @IsOptional() @IsAnimatable() y?: number
  @IsOptional() @IsAnimatable(1e-3, 1e3) scale?: number
  @IsOptional() @IsAnimatable() rotation?: number
}
class DeskClass {
  @IsObject() everything!: Record<string, unknown>
  @IsObject() objects!: Record<string, unknown>
  @IsOptional() @IsObject() lights?: Record<string, unknown>
}
class BuildClass {
  @IsArray() @ArrayMaxSize(500) @ValidateNested({ each: true }) @Type(() => LayerClass) layers!: LayerClass[]
  @IsDefined() @ValidateNested() @Type(() => DeskClass) desk!: DeskClass
}
class DocumentClass {
  @Equals(DOCUMENT_VERSION) version!: number
  @IsDefined() @ValidateNested() @Type(() => FrameSize) frame!: FrameSize
  @IsDefined() @ValidateNested() @Type(() => Rate) rate!: Rate
  @IsDefined() @ValidateNested() @Type(() => Frames) frames!: Frames
  @IsIn(VIEWS.map(view => view.id)) view!: string
  @IsOptional() @ValidateNested() @Type(() => PictureClass) plate!: PictureClass | null
  @IsDefined() @ValidateNested() @Type(() => SceneClass) scene!: SceneClass
  @IsDefined() @ValidateNested() @Type(() => PassesClass) passes!: PassesClass
  @IsDefined() @ValidateNested() @Type(() => BuildClass) build!: BuildClass
  @IsArray() @ArrayMaxSize(200) @ValidateNested({ each: true }) @Type(() => TreatmentClass) finish!: TreatmentClass[]
  @IsOptional() @ValidateNested() @Type(() => MatchClass) match?: MatchClass
  @IsOptional() @ValidateNested() @Type(() => LensClass) lens?: LensClass
}

const STRICT = { whitelist: true, forbidNonWhitelisted: true, forbidUnknownValues: true, stopAtFirstError: true }

/** First few failures of validation as sentences, with the path of each. */
export function sentences(errors: ValidationError[], path = ''): string[] {
  return errors.flatMap(error => {
    const here = path ? `${path}.${error.property}` : error.property
    const own = Object.values(error.constraints ?? {}).map(message => `${here}: ${message}`)
    return [...own, ...sentences(error.children ?? [], here)]
  })
}

function check(type: new () => object, value: unknown, path: string): string[] {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return [`${path}: must be an object`]
  return sentences(validateSync(plainToInstance(type, value), STRICT), path)
}

function checkTreatments(list: TreatmentClass[], path: string): string[] {
  return list.flatMap((entry, i) => {
    const treatment = TREATMENTS.find(candidate => candidate.id === entry.kind)
    return Object.entries(entry.values).flatMap(([id, value]) => {
      const parameter = treatment?.parameters.find(candidate => candidate.id === id)
      if (!parameter) return [`${path}.${i}.values.${id}: ${treatment?.label ?? entry.kind} has no such value`]
      return isAnimatable(value, parameter.low, parameter.high)
        ? []
        : [`${path}.${i}.values.${id}: must be a number from ${parameter.low} to ${parameter.high}, or keys of such`]
    })
  })
}

function checkColumn(column: unknown, path: string): string[] {
  if (typeof column !== 'object' || column === null) return [`${path}: must be an object`]
  return Object.entries(column).flatMap(([row, value]) =>
    !(DESK_ROWS as readonly string[]).includes(row)
      ? [`${path}.${row}: the desk has no such row`]
      : isAnimatable(value, row === 'exposure' ? -10 : 0, row === 'exposure' ? 10 : 100)
        ? []
        : [`${path}.${row}: is out of range`],
  )
}

/** What is wrong with a document, in sentences; empty when nothing is. */
export function documentFaults(value: unknown): string[] {
  const shape = check(DocumentClass, value, '')
  if (shape.length) return shape
  const document = value as ShotDocument
  const faults = [
    ...Object.entries(document.scene.objects).flatMap(([name, settings]) =>
      check(ObjectClass, settings, `scene.objects.${name}`),
    ),
    ...document.build.layers.flatMap((layer, i) =>
      checkTreatments(layer.treatments as never, `build.layers.${i}.treatments`),
    ),
    ...checkTreatments(document.finish as never, 'finish'),
    ...checkColumn(document.build.desk.everything, 'build.desk.everything'),
    ...Object.entries(document.build.desk.objects).flatMap(([name, column]) =>
      checkColumn(column, `build.desk.objects.${name}`),
    ),
    ...Object.entries(document.build.desk.lights ?? {}).flatMap(([name, value]) =>
      isAnimatable(value, 0, 64) ? [] : [`build.desk.lights.${name}: is out of range`],
    ),
  ]
  for (const [i, added] of (document.scene.added ?? []).entries()) {
    const needs =
      added.kind === 'copy' ? ['of'] : ['shape', 'width', 'height', 'depth', 'points', 'colour', 'roughness']
    for (const field of needs)
      if ((added as unknown as Record<string, unknown>)[field] === undefined)
        faults.push(`scene.added.${i}.${field}: is missing`)
  }
  if (document.frames.last < document.frames.first) faults.push('frames.last: lies before frames.first')
  for (const kind of ['plate', 'render'] as const)
    if (document.build.layers.filter(layer => layer.kind === kind).length !== 1)
      faults.push(`build.layers: there must be one ${kind} layer`)
  document.build.layers.forEach((layer, i) => {
    const needs =
      layer.kind === 'picture'
        ? ['picture', 'distance', 'x', 'y', 'scale', 'rotation']
        : layer.kind === 'render'
          ? ['shadow', 'occlusion']
          : []
    for (const field of needs)
      if ((layer as unknown as Record<string, unknown>)[field] === undefined)
        faults.push(`build.layers.${i}.${field}: is missing`)
  })
  if (new Set(document.build.layers.map(layer => layer.id)).size !== document.build.layers.length)
    faults.push('build.layers: two layers have the same id')
  return faults
}
