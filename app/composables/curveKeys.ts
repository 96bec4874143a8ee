// Which values over time are looked at and which of their keys are under work, and what is done to those.
import { animatedValues, putValue, type AnimatedValue } from '../../core/shot/values'
import {
  isCurve,
  movedKeys,
  pastedKeys,
  withMotion,
  withoutKeys,
  type Animatable,
  type Curve,
  type Ease,
  type Key,
} from '../../core/time/curve'
import { perSecond } from '../../core/time/rate'
import { useShot } from '~/stores/shot'

export type CurveKeys = ReturnType<typeof useCurveKeys>

export function useCurveKeys() {
  const shot = useShot()
  const values = computed(() => animatedValues(shot.document!))
  const ticked = ref(new Set<string>())
  const own = ref(false)
  const chosenKey = ref('')
  const chosen = computed(() => values.value.find(value => value.key === chosenKey.value) ?? values.value[0])
  /** The chosen one, and those that are ticked beside it. */
  const shown = computed(() =>
    values.value.filter(value => ticked.value.has(value.key) || value.key === chosen.value?.key),
  )
  /** Keys under work: by value and frame. */
  const picked = ref(new Set<string>())
  const idOf = (value: { key: string }, frame: number): string => `${value.key}@${frame}`
  const framesOf = (value: { key: string; curve: Curve }): Set<number> =>
    new Set(value.curve.keys.map(key => key.frame).filter(frame => picked.value.has(idOf(value, frame))))

  /** Lays changed curves into the document, each at its place. */
  function put(label: string, changed: { value: AnimatedValue; to: Animatable }[], live = false) {
    if (changed.length)
      shot.change(
        label,
        document => {
          for (const { value, to } of changed) putValue(document, value.path, to)
        },
        live,
      )
  }
  const selected = computed(() => values.value.filter(value => framesOf(value).size))
  const pickedCount = computed(() => selected.value.reduce((sum, value) => sum + framesOf(value).size, 0))
  const pickedSpan = computed(() => {
    const frames = selected.value.flatMap(value => [...framesOf(value)])
    return frames.length > 1 ? ([Math.min(...frames), Math.max(...frames)] as const) : null
  })

  const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
  const beforeOf = (): { value: AnimatedValue; curve: Curve; frames: Set<number> }[] =>
    selected.value.map(value => ({ value, curve: copyOf(value.curve), frames: framesOf(value) }))

  function remove() {
    put(
      pickedCount.value === 1 ? 'Remove a key' : 'Remove keys',
      selected.value.map(value => ({ value, to: withoutKeys(value.curve, framesOf(value)) })),
    )
    picked.value = new Set()
  }
  function setEase(ease: Ease) {
    put(
      'Ease of keys',
      selected.value.map(value => {
        const frames = framesOf(value)
        const curve = copyOf(value.curve)
        for (const key of curve.keys)
          if (frames.has(key.frame)) {
            key.ease = ease
            if (ease !== 'smooth') delete key.after
          }
        return { value, to: curve }
      }),
    )
  }
  let clipboard: { key: string; keys: Key[] }[] = []
  const copied = ref(0)
  function copy() {
    clipboard = selected.value.map(value => {
      const frames = framesOf(value)
      return { key: value.key, keys: copyOf(value.curve.keys.filter(key => frames.has(key.frame))) }
    })
    copied.value = pickedCount.value
  }
  /** Copies go where they came from, at the frame at hand; keys of one value go into the chosen value. */
  function paste() {
    const first = Math.min(...clipboard.flatMap(entry => entry.keys.map(key => key.frame)))
    const into =
      clipboard.length === 1 && chosen.value
        ? [{ value: chosen.value, keys: clipboard[0]!.keys }]
        : clipboard.flatMap(({ key, keys }) => {
            const value = values.value.find(entry => entry.key === key)
            return value ? [{ value, keys }] : []
          })
    put(
      'Paste keys',
      into.map(({ value, keys }) => ({
        value,
        to: pastedKeys(value.curve, keys, shot.frame + Math.min(...keys.map(key => key.frame)) - first),
      })),
    )
    picked.value = new Set(
      into.flatMap(({ value, keys }) => keys.map(key => idOf(value, Math.round(key.frame - first + shot.frame)))),
    )
  }
  const onlyKey = computed(() => {
    const value = selected.value[0]
    if (pickedCount.value !== 1 || !value) return null
    const frame = [...framesOf(value)][0]!
    return { value, key: value.curve.keys.find(entry => entry.frame === frame)! }
  })
  function setKey(field: 'frame' | 'value', to: number, live: boolean) {
    const found = onlyKey.value
    if (!found) return
    put(
      'Move a key',
      [
        {
          value: found.value,
          to: movedKeys(
            found.value.curve,
            new Set([found.key.frame]),
            field === 'frame' ? { frames: Math.round(to) - found.key.frame } : { value: to - found.key.value },
          ),
        },
      ],
      live,
    )
    if (field === 'frame') picked.value = new Set([idOf(found.value, Math.round(to))])
  }
  const motion = (change: Partial<Pick<Curve, 'drift' | 'sway'>>, live: boolean): void => {
    const value = chosen.value
    if (!value) return
    const { drift, sway } = value.curve
    const to = withMotion(value.curve, shot.frame, { drift, sway, ...change }, perSecond(shot.document!.rate))
    // A drag through nothing must not end the curve under it
    put('Drift and sway', [{ value, to: live && !isCurve(to) ? value.curve : to }], live)
  }
  const sway = (change: Partial<NonNullable<Curve['sway']>>, live: boolean): void =>
    motion({ sway: { amount: 0, speed: 0.5, seed: 1, ...chosen.value?.curve.sway, ...change } }, live)
  const toggle = (key: string): void => {
    const next = new Set(ticked.value)
    if (next.has(key)) next.delete(key)
    else next.add(key)
    ticked.value = next
  }
  watch(
    values,
    list => {
      if (!list.some(value => value.key === chosenKey.value)) chosenKey.value = list[0]?.key ?? ''
    },
    { immediate: true },
  )
  return {
    values,
    ticked,
    own,
    chosenKey,
    chosen,
    shown,
    picked,
    idOf,
    framesOf,
    put,
    selected,
    pickedCount,
    pickedSpan,
    copyOf,
    beforeOf,
    remove,
    setEase,
    copied,
    copy,
    paste,
    onlyKey,
    setKey,
    motion,
    sway,
    toggle,
  }
}
