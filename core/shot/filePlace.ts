// Where a scene file as a whole stands in its shot, and how large.
import type { Camera, Light, Material, Scene } from '../scene/scene'
import { add, scaled, type Matrix4, type Vector3 } from '../scene/vector'
import type { FilePlace } from './document'

/** The file's world put into the shot's: grown about its origin, then moved. */
const placed = (matrix: Matrix4, { at, times }: FilePlace): Matrix4 =>
  matrix.map((value, i) => (i % 4 === 3 ? value : i < 12 ? value * times : value * times + at[i - 12]!))

function placedLight(light: Light, { at, times }: FilePlace): Light {
  const move = (place: Vector3): Vector3 => add(scaled(place, times), at)
  switch (light.kind) {
    case 'sun':
      return light
    case 'box':
      return {
        ...light,
        centre: move(light.centre),
        halfU: scaled(light.halfU, times),
        halfV: scaled(light.halfV, times),
      }
    case 'disc':
    case 'ball':
      return { ...light, centre: move(light.centre), radius: light.radius * times }
    case 'tube':
      return { ...light, centre: move(light.centre), half: scaled(light.half, times), radius: light.radius * times }
    // Light falls off with the square of distance: what it shines on stays as bright as it was
    case 'point':
    case 'spot':
      return { ...light, position: move(light.position), intensity: scaled(light.intensity, times ** 2) }
  }
}
/** A body takes as much light away as it did, whatever its size. */
const placedMaterial = (material: Material, { times }: FilePlace): Material =>
  material.solid
    ? { ...material, solid: { ...material.solid, absorption: scaled(material.solid.absorption, 1 / times) } }
    : material
const placedCamera = (camera: Camera, place: FilePlace): Camera => ({
  ...camera,
  // A camera has no size
  matrix: camera.matrix.map((value, i) => (i >= 12 && i < 15 ? value * place.times + place.at[i - 12]! : value)),
})

/** A scene as it stands in the shot, at all times; its looks stay as they are in the file. */
export function placedScene(scene: Scene, place: FilePlace | undefined): Scene {
  if (!place) return scene
  return {
    ...scene,
    objects: scene.objects.map(object => ({ ...object, matrix: placed(object.matrix, place) })),
    materials: scene.materials.map(material => placedMaterial(material, place)),
    lights: scene.lights.map(light => placedLight(light, place)),
    cameras: scene.cameras.map(camera => placedCamera(camera, place)),
    camera: scene.camera && placedCamera(scene.camera, place),
    at: scene.at && (seconds => placedScene(scene.at!(seconds), place)),
  }
}
