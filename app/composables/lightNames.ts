// Names of what lights the scene of the shot, for those who choose one.
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'

/** Asked for anew when the scene's lights change, as long as somebody wants them. */
export function useLightNames(wanted: () => boolean): Ref<string[]> {
  const shot = useShot()
  const names = ref<string[]>([])
  watch(
    () => [JSON.stringify(shot.document?.scene.lights), shot.document?.scene.file?.blob, wanted()],
    async () => {
      if (wanted())
        names.value = await engine
          .sceneInfo(shot.document!, shot.frame)
          .then(info => [...info.lights, ...info.emitters])
          .catch(() => [])
    },
    { immediate: true },
  )
  return names
}
