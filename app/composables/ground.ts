// The endless ground that catches shadows: whether there is one, whether it is wanting, and its switch.
import type { ComputedRef } from 'vue'
import { shadowsFallNowhere } from '../../core/shot/faults'
import { groundOf, layGround, removeObject } from '../../core/shot/objects'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

export function useGround(info: () => SceneInfo | null): {
  ground: ComputedRef<string | undefined>
  wanting: ComputedRef<boolean>
  toggle: () => void
} {
  const shot = useShot()
  const view = useView()
  const ground = computed(() => groundOf(shot.document!))
  const wanting = computed(() => {
    const scene = info()
    return !!scene && shadowsFallNowhere(shot.document!, scene.lights, scene.objects)
  })
  function toggle() {
    const there = ground.value
    const things = info()?.objects ?? []
    shot.change(there ? 'No ground that catches shadows' : 'The ground catches shadows', document => {
      if (there) return removeObject(document, there)
      layGround(document, info()?.fileNames ?? [], things)
    })
    if (there) view.picked = view.picked.filter(name => name !== there)
  }
  return { ground, wanting, toggle }
}
