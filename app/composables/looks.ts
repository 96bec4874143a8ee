// Looks that are kept, for every shot.
import { lookOf, type KeptLook, type Look } from '../../core/shot/look'
import type { ShotDocument, TreatmentSettings } from '../../core/shot/document'
import type { Rows } from '../../core/shot/rows'
import { api, upload } from './api'
import { engine } from './engine'
import { canvasOf } from './smallPicture'

const looks = ref<KeptLook[]>([])

export function useLooks() {
  const load = async (): Promise<void> => {
    looks.value = await api<KeptLook[]>('/api/looks')
  }
  const fetched = (id: string): Promise<Look> => api<Look>(`/api/looks/${id}`)
  /** The lines of a recipe, with a picture of the shot as it is. */
  async function keepLines(document: ShotDocument, frame: number, lines: Rows<TreatmentSettings>, name: string) {
    const look = lookOf(document, lines, name)
    const shown = await engine.picture({
      ...{ document, frame, shrink: 4 as const, stops: 0, channel: 0 },
      show: { kind: 'finish' },
    })
    const jpeg = await canvasOf(shown).convertToBlob({ type: 'image/jpeg', quality: 0.85 })
    await api('/api/looks', { method: 'POST', json: { look, picture: (await upload(jpeg)).blob } })
  }
  async function forget(id: string): Promise<void> {
    await api(`/api/looks/${id}`, { method: 'DELETE' })
    await load()
  }
  return { looks, load, fetched, keepLines, forget }
}
