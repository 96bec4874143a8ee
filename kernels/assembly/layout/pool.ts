// How a pool hands work to its threads (core/engine/pool.ts), and the room that each thread has.
// Each field stands behind the one before it. Plain integer constants only, so that both compilers read this one file.

// Control block at the bottom of the shared memory: how a pool hands bands of work to its workers
// (core/engine/pool.ts).
export const CONTROL_GENERATION = 0
export const CONTROL_NEXT_BAND = CONTROL_GENERATION + 4
export const CONTROL_BAND_COUNT = CONTROL_NEXT_BAND + 4
export const CONTROL_DONE = CONTROL_BAND_COUNT + 4
export const CONTROL_STOP = CONTROL_DONE + 4
// The program: where its steps stand, how many, what rows of which columns, and rows of a band
export const CONTROL_STEPS = CONTROL_STOP + 4
export const CONTROL_STEP_COUNT = CONTROL_STEPS + 4
export const CONTROL_LEFT = CONTROL_STEP_COUNT + 4
export const CONTROL_TOP = CONTROL_LEFT + 4
export const CONTROL_RIGHT = CONTROL_TOP + 4
export const CONTROL_BOTTOM = CONTROL_RIGHT + 4
export const CONTROL_ROWS = CONTROL_BOTTOM + 4
// Room for pictures of one band: of all threads, of one thread, and of one picture
export const CONTROL_ROOM = CONTROL_ROWS + 4
export const CONTROL_THREAD_ROOM = CONTROL_ROOM + 4
export const CONTROL_SLOT = CONTROL_THREAD_ROOM + 4
// Code of rows of points (core/formula): how often all was given up, how many there are, where their list stands
// (address
// and bytes of each)
export const CONTROL_FORMULA_ERA = CONTROL_SLOT + 4
export const CONTROL_FORMULA_COUNT = CONTROL_FORMULA_ERA + 4
export const CONTROL_FORMULA_LIST = CONTROL_FORMULA_COUNT + 4
// 1 where a thread could not do its band
export const CONTROL_FAILED = CONTROL_FORMULA_LIST + 4
export const CONTROL_SIZE = 4096

// A step of a program: kernel, bytes of the whole step, pictures among its arguments, its area; then the arguments
export const STEP_KERNEL = 0
export const STEP_BYTES = STEP_KERNEL + 4
export const STEP_RASTERS = STEP_BYTES + 4
export const STEP_LEFT = STEP_RASTERS + 4
export const STEP_TOP = STEP_LEFT + 4
export const STEP_RIGHT = STEP_TOP + 4
export const STEP_BOTTOM = STEP_RIGHT + 4
export const STEP_ARGUMENTS = STEP_BOTTOM + 8
/** Addresses of pictures below this are numbers of pictures of one band. */
export const SLOTS = 64
// Numbers of kernels from here on are places in the table, where rows of points are put
export const FORMULA_FIRST = 1024
export const MOST_FORMULAS = 512
/** Pictures that a row of points reads and writes at most. */
export const MOST_ROW_PICTURES = 10
// Pages of the shared memory, at most
export const MAXIMUM_PAGES = 32768

// Per worker scratch: traversal stack, then child distances of one node and hits of one packet, then three vertices of
// a mesh as they stand in the world.
export const SCRATCH_STACK = 0
export const SCRATCH_LANES = 4096
export const SCRATCH_STANDING = 4608
// What of a ray lies in each medium: SPAN_STRIDE each, least and greatest metres, how often a mesh is crossed, and
// where
export const SCRATCH_SPANS = 5120
export const SPAN_STRIDE = 128
export const MOST_CROSSINGS = 28
export const MOST_VOLUMES = 16
// Spans of a ray to a light, behind those of the camera ray; and the steps of a camera ray through media
export const SPANS_TO_LIGHT = 2048
export const SCRATCH_STEPS = 9216
export const STEP_STRIDE = 20
export const MOST_STEPS = 128
export const SCRATCH_LIGHT = 11904
// Arguments of a step, with the addresses of its pictures of one band put in
export const SCRATCH_ARGUMENTS = 12288
// Behind the pictures of a row of points, room for twelve pixels of each
export const FORMULA_TAIL = 256
// Focus (image/focus.ts): cells of a step and how much of each is covered, what they become, what of them is nothing,
// and a square of the picture so far
export const SCRATCH_FOCUS = 14592
export const FOCUS_TILE = 128
/** Cells from the middle of an opening to each side, at most; and round a square of the picture, one more. */
export const MOST_OPENING = 24
export const FOCUS_SIDE = 178
export const SCRATCH_SIZE = SCRATCH_FOCUS + 1320000
/** Places between two pixels for which a sharp filter has its weights. */
export const RESAMPLE_PHASES = 1024
// Squares of so many pixels say which steps of focus there are in them
export const FOCUS_CELL = 8
/** Circle of a pixel that shows several distances, or of nothing; step of nothing. */
export const NOT_ALONE = -1e9
export const NO_STEP = -1000
// Squares of so many pixels have one fastest path while a shutter is open
export const MOTION_CELL = 16
export const MOTION_CELL_BITS = 4

/** Pixels across a square of which MatchBlocks says where it is, and how far round it is compared. */
export const BLOCK_SIDE = 8
export const BLOCK_ROUND = 4

// Where a card stands, and what it falls on (receiver.ts): rays of a pixel (across, down, first: x, y, z each), the eye,
// the ground's height, which way is up from it (1; -1 seen from below), the wall (normal x, z toward the eye, how far along
// it the wall is and the eye, and whether there is one), the foot of the card, how the ground rises along it, places of its
// picture (six numbers), pixels of it to a metre, its bounds, the way it faces (x, z), how far it reaches aside from its
// foot, from where on what it takes of the sky is told by rows, and the logarithm of a row, and light that is counted whole on the ground and on the wall (four each).
export const CARD_RAYS = 0
export const CARD_EYE = 36
export const CARD_GROUND = 48
export const CARD_UP = 52
export const CARD_WALL = 56
export const CARD_WALL_AT = 64
export const CARD_WALL_THERE = 72
export const CARD_FOOT = 76
export const CARD_RISE = 88
export const CARD_MAP = 92
export const CARD_DENSE = 116
export const CARD_BOUNDS = 120
export const CARD_TOWARD = 136
export const CARD_REACH = 144
export const CARD_SKY_FROM = 148
export const CARD_SKY_STEP = 152
export const CARD_OTHER = 160
export const CARD_OTHER_WALL = 176
export const CARD_PLACE = 192
/** Headings round its foot, and distances from it, for which it is said what a card takes of the sky. */
export const CARD_SKY_HEADINGS = 128
export const CARD_SKY_ROWS = 64
/** Pictures of a card, each of half as many pixels across as the one before. */
export const CARD_LEVELS = 5
/**
 * Four places of lights: x, y, z and whether it is a place (else a way), the light's front (x, y, z) and how much leaves it
 * all round, red, green, blue, how wide the place is, the way the card faces for it (x, z), where in a pixel it is seen;
 * then of all four from above their middle (x, z), whether that is a place, how far about it they are, and how many
 * such fours from here on that holds for.
 */
export const CARD_LIGHTS = 304
export const CARD_LIGHT_MIDDLE = 256
export const CARD_LIGHT_PLACED = 264
export const CARD_LIGHT_SPREAD = 268
export const CARD_LIGHT_OF = 272
/** Four ways that a rough ground mirrors: slopes (two), where in a pixel (two). */
export const CARD_FACETS = 64
/** A lamp that lights an element: its place and the square of its size (four), its power (four). */
export const ELEMENT_LIGHT = 32
/**
 * A speck: where it is at the beginning (x, y), how it goes (x, y); one over the square of that way, its radius, half the
 * width of its border, how much there is of it; its red, green and blue, metres; the pixels that it may cover (left, top,
 * right, bottom).
 */
export const SPECK = 64
/** Rows that have a list of their specks together. */
export const SPECK_ROWS = 16
