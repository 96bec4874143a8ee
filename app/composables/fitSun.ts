// A shadow of the plate, clicked to be held against the sun of the scene.
import { sunFromShadow } from '../../core/match/sun'
import { sunNote, type SunStands } from '../../core/shot/fitSun'
import { sightOf } from '../../core/shot/scene'
import { engine } from './engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

/** What is clicked, one after another. */
const CLICKS = ['its foot', 'its top', 'the tip of its shadow'] as const
const TERM = 'fit-sun'

type Place = { u: number; v: number }
/** Of the shot whose plate it is: it stays while the fit check is closed. */
const read = shallowRef<{ of: string; frame: number; places: [foot: Place, top: Place, tip: Place] } | null>(null)

export function useFitSun() {
  const shot = useShot()
  const view = useView()
  const places = ref<Place[]>([])
  /** What the clicks say through the camera as it is now. Throws BadInput. */
  function standsBy([foot, top, tip]: [Place, Place, Place], frame: number): SunStands {
    const { width, height } = shot.document!.frame
    return sunFromShadow(sightOf(shot.document!, frame).camera(), width / height, foot, top, tip)
  }
  /** The shot with its plate as it is. */
  const of = computed(() => `${shot.id} ${shot.document?.plate?.blob ?? ''}`)
  const own = computed(() => {
    if (read.value?.of !== of.value) return null
    try {
      return standsBy(read.value.places, read.value.frame)
    } catch {
      // The camera was turned away from them
      return null
    }
  })

  // The sun in the environment, found by the engine where the shot has none of its own
  const found = shallowRef<SunStands | null>(null)
  watch(
    () => JSON.stringify([shot.document?.scene.environment?.blob, shot.document?.scene.environment?.encoding]),
    async () => {
      const { document } = shot
      const sun = document?.scene.environment ? await engine.findSun(document).catch(() => null) : null
      if (document?.scene.environment?.blob === shot.document?.scene.environment?.blob) found.value = sun
    },
    { immediate: true },
  )
  const note = computed(() => sunNote(shot.document!, shot.frame, found.value, own.value))

  /** What is to be clicked next; empty where nothing is. */
  const reading = computed(() =>
    view.taking?.term === TERM ? `click ${CLICKS[Math.min(places.value.length, CLICKS.length - 1)]}` : '',
  )
  function ask() {
    places.value = []
    if (reading.value) {
      view.taking = null
      return
    }
    // Clicks are read on the straight picture, as the camera sees
    view.station = 'build'
    view.taking = { term: TERM, name: 'shadow', line: '', what: 'place', again: true }
  }
  watch(
    () => view.taken,
    taken => {
      if (taken?.term !== TERM) return
      const [u, v] = taken.value as [number, number]
      places.value = [...places.value, { u, v }]
      view.taken = null
      const [foot, top, tip] = places.value
      if (!foot || !top || !tip) return
      view.taking = null
      places.value = []
      try {
        standsBy([foot, top, tip], shot.frame)
        read.value = { of: of.value, frame: shot.frame, places: [foot, top, tip] }
      } catch (error) {
        shot.message = (error as Error).message
      }
    },
  )
  onBeforeUnmount(() => {
    if (view.taking?.term === TERM) view.taking = null
  })
  return { note, reading, ask }
}
