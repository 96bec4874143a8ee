// The line between the picture and what it is compared with.
import type { Ref } from 'vue'
import { useView } from '~/stores/view'

/** Through `at` (share of the width), turned by `angle` degrees from upright: where it meets the frame, in pixels of the page. */
export function useDividingLine(frame: Ref<{ width: number; height: number }>, zoom: Ref<number>) {
  const view = useView()
  const line = computed(() => {
    const compare = view.compare
    if (!compare) return null
    const width = frame.value.width * zoom.value
    const height = frame.value.height * zoom.value
    const lean = (Math.tan((compare.angle * Math.PI) / 180) * height) / 2
    return { top: compare.at * width + lean, bottom: compare.at * width - lean, height, middle: compare.at * width }
  })
  return line
}
