// What the page is told of a shot's scene at a frame.
import { degreesFromRotation, identity, transformPoint, turnAndSizes } from '../../core/scene/vector'
import type { ShotDocument } from '../../core/shot/document'
import { objectsOf } from '../../core/shot/objects'
import { inOrder } from '../../core/shot/rows'
import { fileSceneAt, placedMatrix, worldBox, type SceneFiles } from '../../core/shot/scene'
import { emittersOf } from '../../core/scene/emitters'
import type { SceneInfo } from './messages'

export function sceneInfoOf(document: ShotDocument, files: SceneFiles, frame: number): SceneInfo {
  const scene = fileSceneAt(document, files, frame)
  const { objects, materials } = objectsOf(document, scene, frame)
  const added = new Set(inOrder(document.scene.added).map(entry => entry.name))
  return {
    objects: objects.map(object => {
      const own = document.scene.objects[object.name]
      const matrix = placedMatrix(object, own, frame)
      const { low, high } = worldBox(object, matrix)
      const ownBox = worldBox(object, identity())
      const corners = Array.from({ length: 8 }, (_, i) =>
        transformPoint(matrix, [
          (i & 1 ? ownBox.high : ownBox.low)[0],
          (i & 2 ? ownBox.high : ownBox.low)[1],
          (i & 4 ? ownBox.high : ownBox.low)[2],
        ]),
      )
      const { heading, tilt, bank } = degreesFromRotation(turnAndSizes(matrix).turn)
      return {
        name: object.name,
        role: own?.role ?? object.role,
        hidden: own?.hidden ?? object.hidden,
        absent: own?.absent ?? object.absent,
        added: added.has(object.name),
        ofPlate: own?.ofPlate ?? object.ofPlate ?? false,
        shines: object.parts.some(part => Math.max(...materials[part.material]!.emission) > 0),
        triangles: object.parts.reduce((sum, part) => sum + part.indices.length / 3, 0),
        matrix,
        corners,
        position: [matrix[12]!, matrix[13]!, matrix[14]!],
        rotation: [heading, tilt, bank],
        low,
        high,
      }
    }),
    fileNames: scene?.objects.map(object => object.name) ?? [],
    lights: scene?.lights.map(light => light.name) ?? [],
    emitters: scene ? emittersOf(scene).map(({ name }) => name) : [],
    cameras: scene?.cameras.map(camera => camera.name) ?? [],
    materials: materials.map(material => material.name),
    notes: [...new Set(scene?.notes ?? [])],
  }
}
