// What the application may ask of the server, as class-validator classes.
import 'reflect-metadata'
import { Type } from 'class-transformer'
import {
  IsArray,
  IsBoolean,
  ArrayMaxSize,
  ArrayMinSize,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsOptional,
  IsString,
  Length,
  Matches,
  Min,
  Max,
  ValidateNested,
  registerDecorator,
} from 'class-validator'

/** What a page sends of RFC 6902: copies, which double what they name, and moves are not among it. */
export const PATCH_OPERATIONS = ['test', 'add', 'remove', 'replace']
function PatchOperations() {
  return (target: object, property: string): void =>
    registerDecorator({
      name: 'patchOperations',
      target: target.constructor,
      propertyName: property,
      options: { message: `each change must be one of ${PATCH_OPERATIONS.join(', ')}, with a path` },
      validator: {
        validate: (value: unknown) =>
          Array.isArray(value) &&
          value.every(
            (entry: { op?: unknown; path?: unknown } | null) =>
              typeof entry === 'object' &&
              PATCH_OPERATIONS.includes(entry?.op as string) &&
              typeof entry?.path === 'string' &&
              !/(^|\/)(__proto__|constructor|prototype)(\/|$)/.test(entry.path),
          ),
      },
    })
}

export class CreateShot {
  @IsString() @Length(1, 200) name!: string
  @IsOptional() @IsObject() document?: object
}
export class RenameShot {
  @IsString() @Length(1, 200) name!: string
}
export class KeepLook {
  @IsObject() look!: object
  /** A stored picture, by its SHA-256. */
  @IsOptional() @Matches(/^[0-9a-f]{64}$/) picture?: string
}
export class ChangeShot {
  /** Of the document that it was made from; 1 where it does not say. */
  @IsOptional() @IsInt() @Min(1) version?: number
  /** Revision that the change was made from. */
  @IsInt() @Min(1) revision!: number
  @IsString() @Length(1, 200) label!: string
  /** JSON Patch (RFC 6902), of the operations that the page makes. */
  @IsArray() @ArrayMaxSize(20000) @PatchOperations() patch!: object[]
}
export class StepShot {
  @IsInt() @Min(1) revision!: number
}
export const SEND_FORMATS = [
  'png8',
  'png16',
  'tiff8',
  'tiff16',
  'tiff32',
  'jpeg',
  'exr16',
  'exr32',
  'passes',
  'passes_parts',
  'h264',
  'hevc10',
  'prores4444',
  'ffv1',
] as const
export type SendFormat = (typeof SEND_FORMATS)[number]
export class StartRender {
  @IsInt() @Min(-1000000) @Max(1000000) frame!: number
  /** Renders all frames from `frame` to this one. */
  @IsOptional() @IsInt() @Min(-1000000) @Max(1000000) last?: number
  /** Passes that still stand are rendered again too. */
  @IsOptional() @IsBoolean() all?: boolean
}
export class StartSend {
  @IsInt() @Min(-1000000) @Max(1000000) frame!: number
  @IsIn(SEND_FORMATS) format!: SendFormat
  /** More frames than that one, in writing (“1-24, 30, 40-48x2”): numbered files, or a movie. */
  @IsOptional() @IsString() @Length(1, 500) frames?: string
  /** Name of what is made, # where the number of a frame goes. */
  @IsOptional() @IsString() @Length(1, 200) name?: string
}
class NamedBlob {
  @Matches(/^[0-9a-f]{64}$/) blob!: string
  @IsString() @Length(1, 300) name!: string
}
/** A stuck drawing, and where on its frame (pixels) something is put into it. */
class DrawnIn {
  @IsString() @Length(1, 40) id!: string
  @IsOptional() @IsNumber() @Min(-1000000) @Max(1000000) x?: number
  @IsOptional() @IsNumber() @Min(-1000000) @Max(1000000) y?: number
  @IsOptional() @IsNumber() @Min(0.001) @Max(1000000) side?: number
}
/** What footage becomes: the plate, a layer that stands flat, an element, or what is drawn in a stuck drawing. */
export const IMPORTED_AS = ['plate', 'layer', 'element', 'drawing'] as const
/** A video, or the files of one numbered sequence (already in the store), to become a clip of the shot. */
export class StartImport {
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(20000)
  @ValidateNested({ each: true })
  @Type(() => NamedBlob)
  files!: NamedBlob[]
  @IsIn(IMPORTED_AS) as!: (typeof IMPORTED_AS)[number]
  /** Frame of the shot at which a layer starts. */
  @IsInt() @Min(-1000000) @Max(1000000) frame!: number
  /** Of what is drawn: where. */
  @IsOptional() @ValidateNested() @Type(() => DrawnIn) drawing?: DrawnIn
  /** Layer whose picture it becomes. */
  @IsOptional() @IsString() @Length(1, 40) layer?: string
  @IsOptional() @IsBoolean() steady?: boolean
  @IsOptional() @IsBoolean() wholeFrames?: boolean
}
