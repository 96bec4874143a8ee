// What the plate shows where the loaded surface stands.
import * as L from './layout'
import { positionX, positionY, positionZ } from './surface'

/**
 * Light that the plate shows at the loaded surface, as its camera sees it, in plateR, G, B: at its border beyond it,
 * its mean behind the camera.
 */
export let plateR: f32 = 0
export let plateG: f32 = 0
export let plateB: f32 = 0
export function plateAtSurface(scene: usize): void {
  const pixels = <usize>load<u32>(scene, L.SCENE_PLATE)
  plateR = load<f32>(scene, L.SCENE_PLATE_MEAN)
  plateG = load<f32>(scene, L.SCENE_PLATE_MEAN + 4)
  plateB = load<f32>(scene, L.SCENE_PLATE_MEAN + 8)
  if (!pixels) return
  const w =
    load<f32>(scene, L.SCENE_PLATE_W) * positionX +
    load<f32>(scene, L.SCENE_PLATE_W + 4) * positionY +
    load<f32>(scene, L.SCENE_PLATE_W + 8) * positionZ +
    load<f32>(scene, L.SCENE_PLATE_W + 12)
  if (w < 1e-3) return
  const u =
    (load<f32>(scene, L.SCENE_PLATE_U) * positionX +
      load<f32>(scene, L.SCENE_PLATE_U + 4) * positionY +
      load<f32>(scene, L.SCENE_PLATE_U + 8) * positionZ +
      load<f32>(scene, L.SCENE_PLATE_U + 12)) /
    w
  const v =
    (load<f32>(scene, L.SCENE_PLATE_V) * positionX +
      load<f32>(scene, L.SCENE_PLATE_V + 4) * positionY +
      load<f32>(scene, L.SCENE_PLATE_V + 8) * positionZ +
      load<f32>(scene, L.SCENE_PLATE_V + 12)) /
    w
  const width = load<i32>(scene, L.SCENE_PLATE_WIDTH)
  const height = load<i32>(scene, L.SCENE_PLATE_HEIGHT)
  const x = max<f32>(0, min<f32>(<f32>(width - 1), u * <f32>width - 0.5))
  const y = max<f32>(0, min<f32>(<f32>(height - 1), v * <f32>height - 0.5))
  const left = <i32>x
  const upper = <i32>y
  const right = min(width - 1, left + 1)
  const lower = min(height - 1, upper + 1)
  const fx = f32x4.splat(x - <f32>left)
  const fy = f32x4.splat(y - <f32>upper)
  const row0 = pixels + ((<usize>upper * width) << 4)
  const row1 = pixels + ((<usize>lower * width) << 4)
  const a = v128.load(row0 + ((<usize>left) << 4))
  const b = v128.load(row0 + ((<usize>right) << 4))
  const c = v128.load(row1 + ((<usize>left) << 4))
  const d = v128.load(row1 + ((<usize>right) << 4))
  const top = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx))
  const bottom = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx))
  const value = f32x4.add(top, f32x4.mul(f32x4.sub(bottom, top), fy))
  plateR = f32x4.extract_lane(value, 0)
  plateG = f32x4.extract_lane(value, 1)
  plateB = f32x4.extract_lane(value, 2)
}
