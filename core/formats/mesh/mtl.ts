// Materials beside an OBJ (.mtl). Source: the MTL description in Wavefront's "Advanced Visualizer" manual, appendix B
// (from memory), with the widespread
// Pr and Pm of its physically based extension. Colours are taken as display values, as programs write them (common
// practice, no source).
import { encodingOf } from '../../colour/encoding'

export interface MtlMaterial {
  name: string
  /** Linear Rec.709. */
  colour: [number, number, number]
  opacity: number
  emission: [number, number, number]
  roughness: number
  metallic: number
  ior?: number
  /** Names of picture files. */
  colourPicture?: string
  opacityPicture?: string
}

/** Reads what is known; other lines are passed over. */
export function readMtl(text: string): MtlMaterial[] {
  const out: MtlMaterial[] = []
  const decode = encodingOf('srgb').decode!
  let now: MtlMaterial | undefined
  for (const line of text.split(/\r?\n/)) {
    const [word = '', ...rest] = line.trim().split(/\s+/)
    const numbers = rest.map(Number)
    const first = numbers[0]
    const colour = (): [number, number, number] =>
      [0, 1, 2].map(k => {
        const value = numbers[k] ?? first
        return Number.isFinite(value) ? decode(Math.min(1, Math.max(0, value!))) : 0
      }) as [number, number, number]
    // Options stand before the name of a picture, each with its numbers
    const picture = (): string | undefined =>
      rest
        .filter(
          (entry, i) =>
            !/^-/.test(entry) &&
            !(i > 0 && /^-/.test(rest[i - 1]!)) &&
            !(Number.isFinite(Number(entry)) && i < rest.length - 1),
        )
        .join(' ')
        .replace(/\\/g, '/')
        .split('/')
        .pop() || undefined
    if (word === 'newmtl') {
      now = {
        name: rest.join(' ') || `material ${out.length + 1}`,
        colour: [0.6, 0.6, 0.6],
        opacity: 1,
        emission: [0, 0, 0],
        roughness: 0.6,
        metallic: 0,
      }
      out.push(now)
      continue
    }
    if (!now) continue
    if (word === 'Kd') now.colour = colour()
    else if (word === 'Ke') now.emission = colour()
    else if (word === 'd' && Number.isFinite(first)) now.opacity = Math.min(1, Math.max(0, first!))
    else if (word === 'Tr' && Number.isFinite(first)) now.opacity = 1 - Math.min(1, Math.max(0, first!))
    // Exponent of a Blinn highlight to the width of a microfacet one, 2 / (n + 2) = alpha² (B. Walter et al. 2007,
    // section 3); glTF's roughness is its root
    else if (word === 'Ns' && Number.isFinite(first))
      now.roughness = Math.min(1, Math.max(0.02, (2 / (Math.max(0, first!) + 2)) ** 0.25))
    else if (word === 'Pr' && Number.isFinite(first)) now.roughness = Math.min(1, Math.max(0, first!))
    else if (word === 'Pm' && Number.isFinite(first)) now.metallic = Math.min(1, Math.max(0, first!))
    else if (word === 'Ni' && first! >= 1 && first! <= 5) now.ior = first
    else if (word === 'map_Kd') now.colourPicture = picture()
    else if (word === 'map_d') now.opacityPicture = picture()
  }
  return out
}
