// Every treatment there is. To add one: a file beside this, its line here, its test.
import { average } from './average'
import { balance } from './balance'
import { bilateral } from './bilateral'
import { blur } from './blur'
import { blurMap } from './blurMap'
import { box } from './box'
import { breathing } from './breathing'
import { cdl } from './cdl'
import { channels } from './channels'
import { clamp } from './clamp'
import { contact } from './contact'
import { contrast } from './contrast'
import { corners } from './corners'
import { cornerSoftness } from './cornerSoftness'
import { creaseTint } from './creaseTint'
import { crop } from './crop'
import { curves } from './curves'
import { deconvolve } from './deconvolve'
import { degrain } from './degrain'
import { deskGrade } from './deskGrade'
import { detail } from './detail'
import { diffusion } from './diffusion'
import { directional } from './directional'
import { displace } from './displace'
import { distanceTint } from './distanceTint'
import { distort } from './distort'
import { exposure } from './exposure'
import { flare } from './flare'
import { focus } from './focus'
import { fog } from './fog'
import { fringe } from './fringe'
import { gamut } from './gamut'
import { glow } from './glow'
import { grain } from './grain'
import { grainBack } from './grainBack'
import { ground } from './ground'
import { halo } from './halo'
import { hatch } from './hatch'
import { hue } from './hue'
import { hues } from './hues'
import { invert } from './invert'
import { kuwahara } from './kuwahara'
import { levels } from './levels'
import { lightWrap } from './lightWrap'
import { lightWash } from './lightWash'
import { lines } from './lines'
import { look } from './look'
import { lut } from './lut'
import { match } from './match'
import { median } from './median'
import { mesh } from './mesh'
import { mirror } from './mirror'
import { mistGlow } from './mistGlow'
import { motionBlur } from './motionBlur'
import { move } from './move'
import { nlm } from './nlm'
import { overFrames } from './overFrames'
import { paper } from './paper'
import { polar } from './polar'
import { posterise } from './posterise'
import { premultiply } from './premultiply'
import { range } from './range'
import { recolour } from './recolour'
import { repeat } from './repeat'
import { ripple } from './ripple'
import { round } from './round'
import { saturation } from './saturation'
import { shafts } from './shafts'
import { shaped } from './shaped'
import { shoulder } from './shoulder'
import { stars } from './stars'
import { streaks } from './streaks'
import { tint } from './tint'
import { tones } from './tones'
import type { Treatment } from './treatment'
import { unsharp } from './unsharp'
import { uv } from './uv'
import { vignette } from './vignette'

export const TREATMENTS: readonly Treatment[] = [
  exposure,
  deskGrade,
  levels,
  tones,
  contrast,
  curves,
  shoulder,
  balance,
  cdl,
  saturation,
  hue,
  hues,
  range,
  recolour,
  match,
  lut,
  tint,
  channels,
  gamut,
  clamp,
  invert,
  premultiply,
  focus,
  motionBlur,
  glow,
  streaks,
  stars,
  flare,
  halo,
  shafts,
  lightWash,
  diffusion,
  lightWrap,
  distort,
  breathing,
  fringe,
  cornerSoftness,
  vignette,
  grain,
  degrain,
  grainBack,
  fog,
  distanceTint,
  mistGlow,
  creaseTint,
  contact,
  blur,
  box,
  directional,
  round,
  shaped,
  blurMap,
  median,
  bilateral,
  nlm,
  average,
  overFrames,
  unsharp,
  deconvolve,
  detail,
  kuwahara,
  posterise,
  lines,
  hatch,
  paper,
  move,
  corners,
  mesh,
  ground,
  mirror,
  repeat,
  crop,
  ripple,
  displace,
  polar,
  uv,
  look,
]

/** The treatment of that id. Throws when there is none. */
export function treatmentOf(id: string): Treatment {
  const found = TREATMENTS.find(treatment => treatment.id === id)
  if (!found) throw new Error(`There is no treatment “${id}”.`)
  return found
}
