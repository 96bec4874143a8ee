// Going round the things of the desk one after another: each is lit up, and can be seen as it was when one came to it.
import type { Ref } from 'vue'
import type { ThingSeen } from '../../core/compose/sounded'
import { ownOf } from '../../core/declare/own'
import { isTaken } from './keys'
import type { DeskColumn } from './desk'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

/** Begins what a picture of a stop is told by, where others are versions of the ledger. */
const STOP = 'round '

/** columns: those that one goes round, in their order, but for things that are not seen; reached: shows a column. */
export function useDeskRound(
  columns: Ref<readonly DeskColumn[]>,
  seen: Ref<Readonly<Record<string, ThingSeen>>>,
  reached: (column: DeskColumn) => void,
) {
  const shot = useShot()
  const view = useView()
  const isSeen = (name: string): boolean => !Object.keys(seen.value).length || Object.hasOwn(seen.value, name)
  const stops = computed(() => columns.value.filter(({ place, name }) => place.kind === 'thing' && isSeen(name)))
  const at = computed(() => stops.value.findIndex(({ name }) => name === view.round?.name))

  function come(column: DeskColumn | undefined) {
    if (!column || !shot.document) return
    const step = (view.round?.step ?? 0) + 1
    view.round = { name: column.name, step, before: shot.document }
    view.pick({ name: column.name, seen: 'straight' }, false)
    // Laid beside what it was at the stop before
    if (view.compare?.kept?.id.startsWith(STOP)) compare()
    reached(column)
  }
  /** From where one is: the one picked, the first. */
  const begin = (from?: DeskColumn): void =>
    come(from ?? stops.value.find(({ name }) => view.picked.includes(name)) ?? stops.value[0])
  function step(by: 1 | -1) {
    const { length } = stops.value
    if (length) come(stops.value[(Math.max(at.value, by > 0 ? -1 : 0) + by + length) % length])
  }
  const compare = (): void => {
    const { name, step, before } = view.round!
    view.compare = {
      ...{ angle: 0, ...(view.compare ?? {}), with: 'kept' as const },
      // Through the thing itself
      at: ownOf(seen.value, name)?.across ?? 0.5,
      kept: { id: `${STOP}${step}`, name: `${name} as it was`, document: before },
    }
  }
  const isCompared = computed(() => !!view.round && view.compare?.kept?.id === `${STOP}${view.round.step}`)
  function toggleCompare() {
    if (isCompared.value) view.compare = null
    else compare()
  }
  function end() {
    if (isCompared.value) view.compare = null
    view.round = null
  }
  function keys(event: KeyboardEvent) {
    if (!view.round || isTaken(event) || event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key.toLowerCase() !== 'n') return
    event.preventDefault()
    step(event.shiftKey ? -1 : 1)
  }
  onMounted(() => window.addEventListener('keydown', keys))
  onBeforeUnmount(() => {
    window.removeEventListener('keydown', keys)
    end()
  })
  return { stops, at, begin, step, end, isCompared, toggleCompare }
}
