// Edges of the scene over the plate, and their ends to click on.
import type { Ref } from 'vue'
import { project, segment } from '../../core/match/project'
import type { Camera } from '../../core/scene/scene'
import type { Vector3 } from '../../core/scene/vector'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { ObjectEdges, PreviewPicture, SceneInfo } from '~/workers/messages'
import { engine } from './engine'

interface Edged {
  info: () => SceneInfo | null
  /** What the preview knows to stand at each of its pixels. */
  preview: () => Pick<PreviewPicture, 'width' | 'height' | 'depth'> | null
  zoom: () => number
  camera: Ref<Camera>
  aspect: Ref<number>
  frame: Ref<{ width: number; height: number }>
  pointer: Ref<{ u: number; v: number } | null>
}

export function useSceneEdges({ info, preview: seenBy, zoom, camera, aspect, frame, pointer }: Edged) {
  const shot = useShot()
  const view = useView()
  const across = (u: number): number => u * frame.value.width
  const down = (v: number): number => v * frame.value.height
  const edges = shallowRef<ObjectEdges[]>([])
  const wantsEdges = computed(() =>
    view.sceneEdges
      ? 'all'
      : view.sceneTool === 'known'
        ? 'all'
        : view.sceneTool === 'pin' || view.sceneTool === 'pull'
          ? (view.picked[0] ?? '')
          : '',
  )
  watch(
    () =>
      JSON.stringify([
        wantsEdges.value,
        shot.document?.scene.objects,
        shot.document?.scene.file?.blob,
        shot.document?.scene.added,
        shot.frame,
        info()?.objects.length,
      ]),
    async () => {
      if (!wantsEdges.value) {
        edges.value = []
        return
      }
      const names =
        wantsEdges.value === 'all'
          ? (info()?.objects ?? []).filter(object => !object.absent).map(object => object.name)
          : [wantsEdges.value]
      edges.value = await engine.edges(shot.document!, shot.frame, names).catch(() => [])
    },
    { immediate: true },
  )
  /** Whether a place of the world is what the picture shows there, not something behind it. */
  function seen(point: Vector3): boolean {
    const { u, v, metres } = project(camera.value, aspect.value, point)
    const preview = seenBy()
    if (!(metres > 0.02) || u < 0 || v < 0 || u >= 1 || v >= 1) return false
    if (!preview) return true
    for (const dy of [-1, 0, 1]) {
      for (const dx of [-1, 0, 1]) {
        const x = Math.floor(u * preview.width) + dx
        const y = Math.floor(v * preview.height) + dy
        if (
          x >= 0 &&
          y >= 0 &&
          x < preview.width &&
          y < preview.height &&
          metres < preview.depth[y * preview.width + x]! * 1.01 + 0.01
        )
          return true
      }
    }
    return false
  }
  const edgePath = computed(() => {
    const parts: string[] = []
    // What is pulled is drawn whole: its far side is held to the plate as well
    const isWhole = view.sceneTool === 'pull'
    if (!view.sceneEdges && !isWhole) return ''
    for (const { lines } of edges.value) {
      for (let i = 0; i < lines.length; i += 6) {
        const a: Vector3 = [lines[i]!, lines[i + 1]!, lines[i + 2]!]
        const b: Vector3 = [lines[i + 3]!, lines[i + 4]!, lines[i + 5]!]
        const middle: Vector3 = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2]
        if (!isWhole && !seen(middle) && !(seen(a) && seen(b))) continue
        const line = segment(camera.value, aspect.value, a, b)
        // Crumbs only clutter
        if (line && Math.hypot(across(line[0] - line[2]), down(line[1] - line[3])) * zoom() > 5)
          parts.push(
            `M${across(line[0]).toFixed(1)} ${down(line[1]).toFixed(1)}L${across(line[2]).toFixed(1)} ${down(line[3]).toFixed(1)}`,
          )
      }
    }
    return parts.join('')
  })
  /** The corner of the scene nearest to the pointer. */
  const corner = computed((): { point: Vector3; u: number; v: number } | null => {
    const at = pointer.value
    if (!at || !(view.sceneTool === 'pin' || (view.sceneTool === 'known' && !view.knownPoint))) return null
    let best: { point: Vector3; u: number; v: number } | null = null
    let nearest = 12 / zoom()
    for (const { lines } of edges.value) {
      for (let i = 0; i < lines.length; i += 3) {
        const point: Vector3 = [lines[i]!, lines[i + 1]!, lines[i + 2]!]
        const p = project(camera.value, aspect.value, point)
        const far = Math.hypot(across(p.u - at.u), down(p.v - at.v))
        if (p.metres > 0.02 && far < nearest && seen(point)) {
          nearest = far
          best = { point, u: p.u, v: p.v }
        }
      }
    }
    return best
  })
  return { edgePath, corner }
}
