// Where water is, for its kernels, in bytes: rays (across, down, the first), the eye, the camera's right, up and back, pixels to a metre one
// metre away and the middle of what it sees, the level, metres to the shore, for how thick things are taken, the
// frame (left, top, right, bottom), and the colour of the water.
export const WATER_RAYS = 0
export const WATER_EYE = 36
export const WATER_RIGHT = 48
export const WATER_UP = 60
export const WATER_BACK = 72
export const WATER_DENSE = 84
export const WATER_MIDDLE = 88
export const WATER_LEVEL = 96
export const WATER_SHORE = 100
export const WATER_THICK = 104
export const WATER_FRAME = 108
export const WATER_COLOUR = 128
export const WATER_PLACE = 144
/** Four waves: one over their lengths as radians along x and z, where they are in their way, how high they are (four each). */
export const WAVE_FOUR = 64
/** A lamp: its place and whether that is a place (else a way), its power. */
export const WATER_LAMP = 32
/** Pixels each way of a square of which the nearest is known. */
export const WATER_BLOCK = 16
