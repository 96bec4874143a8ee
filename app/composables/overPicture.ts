// What lies over the picture: how large the frame is, and where on it the pointer is.
import type { Ref } from 'vue'
import { useShot } from '~/stores/shot'

/** Across and down. */
export type Xy = readonly [number, number]

/** svg: over all of the picture, in pixels of the frame; zoom: pixels of the screen to one of the frame. */
export function useOverPicture(svg: Ref<SVGSVGElement | undefined>, zoom: () => number = () => 1) {
  const shot = useShot()
  const frame = computed(() => shot.document!.frame)
  /** Pixels of the frame to one of the screen. */
  const unit = computed(() => 1 / zoom())
  /** From the left and the top of the frame, 0..1 within it. */
  function shareAt(event: MouseEvent): Xy {
    // What lies over it may be brought to a part of it
    const bounds = svg.value!.parentElement!.getBoundingClientRect()
    return [(event.clientX - bounds.left) / bounds.width, (event.clientY - bounds.top) / bounds.height]
  }
  /** In pixels of the frame; beyond it on as they go. */
  function placeAt(event: MouseEvent): Xy {
    const [u, v] = shareAt(event)
    return [u * frame.value.width, v * frame.value.height]
  }
  return { frame, unit, shareAt, placeAt }
}
