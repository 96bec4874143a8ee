// Parts of the bell house that are no plain forms.
import { turned, type Mesh } from './mesh'

/** Texture coordinates of the bell's rows. */
const bellUvs = (rows: number, steps: number): number[] => {
  const out: number[] = []
  for (let i = 0; i < rows; i++) for (let k = 0; k <= steps; k++) out.push((k / steps) * 2, (i / (rows - 1)) * 1.7)
  return out
}

/** A net thrown over the plinth's front edge: hangs in folds. */
export function netDrape(): Mesh {
  const nx = 60
  const ny = 44
  const mesh: Mesh = { positions: [], normals: [], uvs: [], indices: [] }
  for (let j = 0; j <= ny; j++) {
    for (let i = 0; i <= nx; i++) {
      const s = i / nx
      const t = j / ny
      const fold = Math.sin(s * 17 + t * 2) * 0.035 * t + Math.sin(s * 41 + 1) * 0.012 * t
      const x = 0.5 + s * 1.0 + (s - 0.5) * t * 0.35
      const run = t * 1.15
      // Over the top edge, down the face, then out along the ground
      const y = run < 0.25 ? 0.7 : run < 0.93 ? 0.7 - (run - 0.25) : 0.02
      const z = (run < 0.25 ? 1.0 + run : run < 0.93 ? 1.25 + (run - 0.25) * 0.16 : 1.36 + (run - 0.93)) + fold
      mesh.positions.push(x - 0.35, Math.max(0.012, y + Math.abs(fold) * 0.4), z)
      mesh.normals.push(0, 0.25, 0.97)
      mesh.uvs.push(s, t)
    }
  }
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const a = j * (nx + 1) + i
      mesh.indices.push(a, a + nx + 1, a + 1, a + 1, a + nx + 1, a + nx + 2)
    }
  return mesh
}

/** Lip, waist, shoulder, crown; inside as well. */
export function bellMesh(): Mesh {
  const profile: [number, number][] = [
    [0.0, 0.86],
    [0.1, 0.86],
    [0.17, 0.845],
    [0.225, 0.8],
    [0.25, 0.73],
    [0.265, 0.62],
    [0.285, 0.48],
    [0.318, 0.32],
    [0.365, 0.18],
    [0.425, 0.07],
    [0.455, 0.02],
    [0.46, 0],
    [0.43, 0.0],
    [0.4, 0.07],
    [0.34, 0.19],
    [0.29, 0.34],
    [0.26, 0.5],
    [0.235, 0.7],
    [0.1, 0.8],
    [0, 0.81],
  ]
  const dense: [number, number][] = profile
    .slice(0, -1)
    .flatMap(([r, h], i) =>
      [0, 0.25, 0.5, 0.75].map(
        t => [r + (profile[i + 1]![0] - r) * t, h + (profile[i + 1]![1] - h) * t] as [number, number],
      ),
    )
  return {
    ...turned(
      [...dense].map(([r, h]) => [r * 1.22, h * 1.18] as [number, number]),
      [0, 1.16, 0],
      160,
    ),
    uvs: bellUvs(dense.length, 160),
  }
}
