// What is dragged along the soundings.

/** Takes where it was brought; live: part of a drag. */
export type PutMetres = (metres: number, live: boolean) => void
/** What parts of the soundings are given of the whole. */
export interface AlongSoundings {
  /** Pixels from the left of so many metres. */
  xOf: (metres: number) => number
  drag: (event: PointerEvent, put: PutMetres) => void
  nudge: (event: KeyboardEvent, metres: number, put: PutMetres) => void
  /** Pixels down to the ground line. */
  ground: number
}
