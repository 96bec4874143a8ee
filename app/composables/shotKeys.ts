// Keys of the page of a shot.
import { isTaken } from './keys'
import { play, step, stop } from './playback'
import { useShot } from '~/stores/shot'
import { STATIONS, useView, type Station } from '~/stores/view'

/** What each does, for who asks. */
export const KEYS = [
  ['1 – 6', 'the six stations'],
  ['F', 'fit the picture'],
  ['wheel', 'zoom; Space and drag moves'],
  ['V', 'viewer alone'],
  ['B', 'hold: before all treatments; going round: as it was'],
  ['W', 'hold: without the chosen treatment'],
  ['C', 'dividing line'],
  ['D', 'desk'],
  ['N', 'going round the desk: the next object; Shift: the one before'],
  ['M', 'fit check: plate and layer measured'],
  ['T', 'values over time'],
  ['I', 'soundings or light under the picture'],
  ['P', 'play or pause; J backwards'],
  ['← →', 'one frame back, on'],
  ['click', 'pick an object; Shift adds'],
  ['K', 'key for the value under focus'],
  ['L', 'dim theme'],
  ['Ctrl Z', 'undo; with Shift redo'],
  ['Esc', 'let go'],
]

/** Listens to the keys of the page from when it stands, while isReady; go leads to a station. */
export function useShotKeys(isReady: () => boolean, go: (station: Station) => void): void {
  const shot = useShot()
  const view = useView()
  function keys(event: KeyboardEvent) {
    if (!isReady() || isTaken(event)) return
    const key = event.key.toLowerCase()
    if ((event.ctrlKey || event.metaKey) && key === 'z') {
      event.preventDefault()
      void shot.step(event.shiftKey ? 'redo' : 'undo')
      return
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return
    if (/^[1-6]$/.test(key)) go(STATIONS[Number(key) - 1]!)
    else if (key === 'f') view.fit()
    else if (key === 'd' && view.station === 'build') view.toggleLower('deskOpen')
    else if (key === 'm') view.toggleLower('fitOpen')
    else if (key === 'i') view.showStrip(view.strip === 'light' ? 'soundings' : 'light')
    else if (key === 't') view.lowerCurves = !view.lowerCurves
    else if (key === 'b' && !event.repeat) view.held = view.round ? { before: true } : { treatments: true }
    else if (key === 'w' && !event.repeat && view.selectedTreatment) view.held = { id: view.selectedTreatment }
    else if (key === 'c') view.compare = view.compare ? null : { with: 'before', at: 0.5, angle: 0 }
    else if (key === 'v') view.whole = !view.whole
    else if (key === 'l') view.dim = !view.dim
    else if (key === 'p') {
      if (view.playing) stop()
      else play(1)
    } else if (key === 'j') {
      if (view.playing) stop()
      else play(-1)
    } else if (key === 'arrowleft') step(-1)
    else if (key === 'arrowright') step(1)
    else if (key === '?') view.helpOpen = true
    else if (key === 'escape') {
      view.matte = null
      view.taking = null
      view.compare = null
      if (view.drawn) view.drawn = { ...view.drawn, tool: null, point: '' }
      if (!view.sceneTool && !view.matchTool) view.picked = []
      view.matchTool = null
      view.sceneTool = null
    }
  }
  function keyUp(event: KeyboardEvent) {
    if (['b', 'w'].includes(event.key.toLowerCase())) view.held = null
  }
  onMounted(() => {
    window.addEventListener('keydown', keys)
    window.addEventListener('keyup', keyUp)
  })
  onBeforeUnmount(() => {
    window.removeEventListener('keydown', keys)
    window.removeEventListener('keyup', keyUp)
  })
}
