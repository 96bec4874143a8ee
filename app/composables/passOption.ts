// What a render may be taken with, said by declared values: a lens, a shutter.
import { firstValues } from '../../core/declare/values'
import type { EntryFields } from '../../core/declare/values'
import type { PassSettings } from '../../core/shot/document'
import type { Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'

/** labels: of turning it on, off, and of data that stays sharp, as changes are called. */
export function usePassOption<Id extends 'lens' | 'shutter'>(
  id: Id,
  fields: EntryFields,
  labels: { on: string; off: string; sharp: string },
) {
  const shot = useShot()
  return {
    settings: computed(() => shot.document!.passes[id] as PassSettings[Id]),
    turn(on: boolean) {
      shot.change(on ? labels.on : labels.off, ({ passes }) => {
        if (on) Object.assign(passes, { [id]: { ...firstValues(fields), sharpData: true } })
        else delete passes[id]
      })
    },
    put(name: string, value: Animatable, live: boolean) {
      shot.change(labels.on, ({ passes }) => void Object.assign(passes[id]!, { [name]: value }), live)
    },
    turnSharp() {
      shot.change(labels.sharp, ({ passes }) => {
        passes[id]!.sharpData = !passes[id]!.sharpData
      })
    },
  }
}
