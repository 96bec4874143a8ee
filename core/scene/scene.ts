// What a scene is, before it is compiled for rendering: objects of triangles in world metres, materials, lights, a
// camera, an environment.
import type { Matrix4, Vector3 } from './vector'

export type Role = 'object' | 'catcher' | 'holdout'

export interface Texture {
  /** RGBA, rows from the top: codes of 8 bits; floats are linear Rec.709, premultiplied. */
  pixels: Uint8Array | Float32Array
  width: number
  height: number
  wrapS: 'repeat' | 'clamp' | 'mirror'
  wrapT: 'repeat' | 'clamp' | 'mirror'
  /**
   * Which set of surface coordinates it lies by, 0 (when not said) or 1, and rows of three that take them to the
   * picture's.
   */
  set?: 0 | 1
  move?: readonly number[]
}

export interface Material {
  name: string
  /** Linear Rec.709, 0..1, and opacity. */
  baseColour: [number, number, number, number]
  metallic: number
  roughness: number
  /** Radiance in W/(m2 sr), linear Rec.709. */
  emission: Vector3
  alphaMode: 'opaque' | 'mask' | 'blend'
  alphaCutoff: number
  normalScale: number
  doubleSided: boolean
  baseTexture?: Texture
  metallicRoughnessTexture?: Texture
  normalTexture?: Texture
  emissionTexture?: Texture
  /** Share of the light that goes through instead of being scattered: glass. 0 when not said. */
  transmission?: number
  /** Its red channel multiplies that share. */
  transmissionTexture?: Texture
  /** Index of refraction; 1.5 when not said. */
  ior?: number
  /**
   * Strength of what a dielectric mirrors straight on, and its colour. Pictures multiply: the strength by A, the colour
   * by RGB.
   */
  specular?: { strength: number; colour: Vector3; texture?: Texture; colourTexture?: Texture }
  /** A clear lacquer over it. Pictures multiply: the strength by R, the roughness by G. */
  coat?: { strength: number; roughness: number; texture?: Texture; roughnessTexture?: Texture }
  /** Light that fibres standing off the surface scatter. Pictures multiply: the colour by RGB, the roughness by A. */
  sheen?: { colour: Vector3; roughness: number; colourTexture?: Texture; roughnessTexture?: Texture }
  /** A closed body that bends light, and takes this much of it away a metre; else both faces of a sheet in one. */
  solid?: { absorption: Vector3 }
}

/** A mesh part with one material, in the object's own space. */
export interface Part {
  positions: Float32Array
  /** Without, every triangle is flat. */
  normals?: Float32Array
  uvs?: Float32Array
  /** A second set of surface coordinates. */
  uvs2?: Float32Array
  /** RGBA a vertex, linear, 0..1: multiplies the material's colour. */
  colours?: Float32Array
  /** xyz and handedness: cross(normal, tangent) times it points up in the normal picture. Only with normals. */
  tangents?: Float32Array
  indices: Uint32Array
  material: number
}

export interface SceneObject {
  name: string
  /** Object to world. */
  matrix: Matrix4
  parts: Part[]
  role: Role
  /** Not seen by the camera; still casts shadows and is seen in reflections. */
  hidden: boolean
  /** Left out altogether. */
  absent: boolean
  /** Its own pixels are laid by a layer: only what it does to others is rendered. */
  laid?: boolean
  /**
   * A catcher or holdout sends the light that the plate shows there, as its camera sees it: for reflections and bounce.
   */
  ofPlate?: boolean
  /** A catcher behind which things are still seen. */
  letsThrough?: boolean
  prints?: Print[]
  /** Its shadow is kept on its own. */
  ownShadow?: boolean
  /** By occlusion: whether it darkens others, and is darkened. */
  darkens?: boolean
  darkened?: boolean
  /** A catcher that mirrors objects like wet ground: how much (0..1) and how sharply. */
  wet?: { amount: number; roughness: number }
  /** Group that its own light counts in where light is told apart. */
  lightGroup?: string
  /** The whole that it is a part of: its topmost node in the file. Its own name where it stands alone. */
  asset?: string
}

/** A picture laid on an object, thrown onto it along parallel lines or from a point. */
export interface Print {
  texture: Texture
  /**
   * Rows of four that take a place of the world to u, v (0..1 across the picture, v down) and metres along the throw;
   * from a point, u and v come out times those metres.
   */
  rows: [number[], number[], number[]]
  /** From a point: the point; else the unit vector back to where it comes from. */
  from: Vector3
  perspective: boolean
  /** Metres along the throw between which it lies. */
  near: number
  far: number
  /** In place of the material, or over its colour. */
  instead: boolean
  /** Own roughness, or the material's. */
  roughness?: number
  opacity: number
}

/** group: what it counts in where light is told apart; its name when not said. */
export type Light = { group?: string } & LightShape
export type LightShape =
  | {
      kind: 'sun'
      name: string
      /** Unit vector in which light travels. */
      direction: Vector3
      /** Apparent diameter in degrees. */
      diameter: number
      /** Irradiance at right angles, W/m2, linear Rec.709. */
      irradiance: Vector3
    }
  | {
      kind: 'box'
      name: string
      centre: Vector3
      /** Half side vectors in metres. */
      halfU: Vector3
      halfV: Vector3
      /** Unit vector of its front. */
      normal: Vector3
      radiance: Vector3
    }
  | {
      kind: 'disc'
      name: string
      centre: Vector3
      /** Unit vector of its front. */
      normal: Vector3
      radius: number
      radiance: Vector3
      /** Degrees from its axis between which its light fades. */
      cone?: { inner: number; outer: number }
    }
  | { kind: 'ball'; name: string; centre: Vector3; radius: number; radiance: Vector3 }
  | {
      kind: 'tube'
      name: string
      centre: Vector3
      /** From the middle to an end, metres. */
      half: Vector3
      radius: number
      radiance: Vector3
    }
  | { kind: 'point'; name: string; position: Vector3; /** W/sr. */ intensity: Vector3 }
  | {
      kind: 'spot'
      name: string
      position: Vector3
      direction: Vector3
      intensity: Vector3
      /** Degrees from the axis. */
      inner: number
      outer: number
    }

export interface Camera {
  name: string
  /** Camera to world; looks along -Z, up is +Y, no scale. */
  matrix: Matrix4
  /** Millimetres. */
  focalLength: number
  sensorWidth: number
  /**
   * Where the view is shifted to, in half widths and half heights of the picture; right and up are positive (the
   * optical axis then meets it left of and below the middle).
   */
  shiftX: number
  shiftY: number
}
/** What a picture is taken by of which nothing is known: at the height of an eye, looking level. */
export const ANY_CAMERA: Camera = {
  name: '',
  matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 1.6, 0, 1],
  focalLength: 35,
  sensorWidth: 36,
  shiftX: 0,
  shiftY: 0,
}

export interface Environment {
  /** RGBA float, linear Rec.709, rows from the top; the middle of the picture lies towards -Z. */
  pixels: Float32Array
  width: number
  height: number
  /** Degrees; a positive turn moves the picture to the right. */
  turn: number
  gain: Vector3
  seenByCamera: boolean
  /** Group that its light counts in; “environment” when not said. */
  group?: string
}

/** The plate as a source of light: what stand-ins for it send. */
export interface PlateLight {
  /** RGBA float, linear Rec.709, rows from the top; fills the camera's view. */
  pixels: Float32Array
  width: number
  height: number
  camera: Camera
}

/** Air with something in it, in a box, in a closed body or everywhere. */
export interface Volume {
  name: string
  /** The box as the unit cube's place in the world, or the body that it fills; everywhere when neither is said. */
  box?: Matrix4
  body?: { parts: readonly Part[]; matrix: Matrix4 }
  /** Extinction, a metre. */
  density: number
  /** Share of it that is scattered, by colour, 0..1; the rest is absorbed. */
  colour: Vector3
  /** Mean cosine of where it scatters to, -1..1. */
  forward: number
  /** How uneven (0..1), over how many metres. */
  noise: number
  noiseSize: number
  seed: number
  /** Metres from which up it thins out, and over how many to a half; 0: not at all. */
  base: number
  halfHeight: number
}

export interface Scene {
  objects: SceneObject[]
  materials: Material[]
  lights: Light[]
  camera?: Camera
  cameras: Camera[]
  environment?: Environment
  plate?: PlateLight
  volumes?: Volume[]
  /** What the file held that is not used, in words. */
  notes: string[]
  /** The same at a time in seconds, where something in the file moves, and how long it does. */
  at?: (seconds: number) => Scene
  duration?: number
}
