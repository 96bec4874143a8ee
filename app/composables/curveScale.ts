// Where values over time stand on a graph: frames across, as on the time line below it, values up.
import type { Ref } from 'vue'
import { valueRange, type AnimatedValue } from '../../core/shot/values'
import { valueAt, type Key } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

/** Pixels kept free at the ends. */
export const PAD = 14

/** size: of the graph in pixels, and where it begins on the page. own: each value over its own range. */
export function useCurveScale(
  shown: Ref<readonly AnimatedValue[]>,
  own: Ref<boolean>,
  size: { left: number; width: number; height: number },
) {
  const shot = useShot()
  const view = useView()
  const span = computed((): [number, number] => {
    const { first, last } = shot.document!.frames
    return first === last ? [first - 1, last + 1] : [first, last]
  })
  const common = computed(() =>
    valueRange(
      shown.value.map(value => value.curve),
      span.value[0],
      span.value[1],
      valueAt,
    ),
  )
  const frozen = ref<[number, number] | null>(null)
  const rangeOf = (value: AnimatedValue): [number, number] =>
    own.value ? valueRange([value.curve], span.value[0], span.value[1], valueAt) : (frozen.value ?? common.value)
  /** Pixels of frame `from` and of each frame: those of the time line below, where there is one. */
  const scale = computed(() => {
    const { first, last } = shot.document!.frames
    const bar = view.timeScale
    if (first === last || !bar)
      return { from: span.value[0], at: PAD, per: (size.width - 2 * PAD) / (span.value[1] - span.value[0]) }
    const per = bar.width / (last - first + 1)
    return { from: first, at: bar.left - size.left + per / 2, per }
  })
  const xOf = (frame: number): number => scale.value.at + (frame - scale.value.from) * scale.value.per
  const frameAt = (x: number): number => scale.value.from + (x - scale.value.at) / scale.value.per
  const yOf = (value: AnimatedValue, at: number): number => {
    const [low, high] = rangeOf(value)
    return size.height - PAD - ((at - low) / (high - low)) * (size.height - 2 * PAD)
  }
  const perPixel = (value: AnimatedValue): number => {
    const [low, high] = rangeOf(value)
    return (high - low) / (size.height - 2 * PAD)
  }
  const lineOf = (value: AnimatedValue): string => {
    const first = frameAt(0)
    const last = frameAt(size.width)
    const step = Math.max(0.25, (last - first) / Math.min(900, size.width))
    const points: string[] = []
    // From a whole frame on, so that keys lie on the line
    for (let frame = Math.floor(first); frame <= last + 1e-9; frame += step) {
      const y = yOf(value, valueAt(value.curve, frame))
      points.push(`${xOf(frame).toFixed(1)} ${y.toFixed(1)}`)
    }
    return `M${points.join('L')}`
  }
  /** A key stands on its curve, with what wanders on top of it. */
  const keyPlace = (value: AnimatedValue, key: Key): { x: number; y: number } => ({
    x: xOf(key.frame),
    y: yOf(value, valueAt(value.curve, key.frame)),
  })
  const handlePlace = (value: AnimatedValue, key: Key, side: 'before' | 'after'): { x: number; y: number } | null => {
    const keys = value.curve.keys
    const at = keys.indexOf(key)
    const other = keys[side === 'after' ? at + 1 : at - 1]
    if (!other || (side === 'after' ? key : other).ease !== 'smooth') return null
    const handle = key[side] ?? { frames: Math.abs(other.frame - key.frame) / 3, value: 0 }
    return {
      x: xOf(key.frame + (side === 'after' ? handle.frames : -handle.frames)),
      y: yOf(value, valueAt(value.curve, key.frame) + handle.value),
    }
  }
  const ticks = computed(() => {
    const [low, high] = common.value
    const rough = (high - low) / 4
    const power = 10 ** Math.floor(Math.log10(rough))
    const step = [1, 2, 5, 10].map(n => n * power).find(n => n >= rough) ?? rough
    const out: number[] = []
    for (let at = Math.ceil(low / step) * step; at <= high + 1e-9 && out.length < 12; at += step)
      out.push(Number(at.toPrecision(10)))
    return out
  })
  return { common, frozen, xOf, frameAt, yOf, perPixel, lineOf, keyPlace, handlePlace, ticks }
}
