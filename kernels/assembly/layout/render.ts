// A render: what it is told, and what it adds up for each pixel.
// Each field stands behind the one before it. Plain integer constants only, so that both compilers read this one file.

export const RENDER_ACCUMULATOR = 0
export const RENDER_WIDTH = RENDER_ACCUMULATOR + 4
export const RENDER_HEIGHT = RENDER_WIDTH + 4
export const RENDER_FIRST_ROW = RENDER_HEIGHT + 4 // first row that the accumulator holds
export const RENDER_SAMPLE_COUNT = RENDER_FIRST_ROW + 8
export const RENDER_SEED = RENDER_SAMPLE_COUNT + 4
export const RENDER_MAX_BOUNCES = RENDER_SEED + 4
export const RENDER_FLAGS = RENDER_MAX_BOUNCES + 4
export const RENDER_OCCLUSION_REACH = RENDER_FLAGS + 4
export const RENDER_CLAMP = RENDER_OCCLUSION_REACH + 4
export const RENDER_CAMERA = RENDER_CLAMP + 4 // position 3, right 3, up 3, back 3
export const RENDER_TAN_X = RENDER_CAMERA + 48 // half width of the view at distance 1
export const RENDER_TAN_Y = RENDER_TAN_X + 4
export const RENDER_SHIFT_X = RENDER_TAN_Y + 4 // principal point shift in half widths
export const RENDER_SHIFT_Y = RENDER_SHIFT_X + 4
export const RENDER_FILTER = RENDER_SHIFT_Y + 4 // inverse cumulative table of the pixel filter, 257 offsets in pixels
export const RENDER_SCENE = RENDER_FILTER + 4
export const RENDER_ROW_OFFSET = RENDER_SCENE + 4 // row of band 0
// Where blocks begin in a pixel of the accumulator, in floats; 0 for one that is not there
export const RENDER_LIGHT = RENDER_ROW_OFFSET + 4
export const RENDER_SURFACE = RENDER_LIGHT + 4
export const RENDER_PLACE = RENDER_SURFACE + 4
export const RENDER_OCCLUSION = RENDER_PLACE + 4
export const RENDER_SHADOW = RENDER_OCCLUSION + 4
export const RENDER_CRYPTO_OBJECT = RENDER_SHADOW + 4
export const RENDER_CRYPTO_MATERIAL = RENDER_CRYPTO_OBJECT + 4
export const RENDER_CRYPTO_ASSET = RENDER_CRYPTO_MATERIAL + 4
export const RENDER_STRIDE = RENDER_CRYPTO_ASSET + 4 // floats a pixel
export const RENDER_SLOTS = RENDER_STRIDE + 4 // of a block of coverage
export const RENDER_NEXT = RENDER_SLOTS + 4 // camera a frame on: position, right, up, back, half widths at 1, shifts
export const RENDER_PREVIOUS = RENDER_NEXT + 64 // and a frame ago
// What is seen through glass, and after it what is mirrored: its block, its objects' and its materials' coverage
export const RENDER_BEYOND = RENDER_PREVIOUS + 64
export const RENDER_GROUPS = RENDER_BEYOND + 24 // block of sums of light by group
export const RENDER_RAW = RENDER_GROUPS + 4
export const RENDER_NOISE = RENDER_RAW + 4
// power of what is left of the reach by which far things count for less; 0: all count the same
export const RENDER_OCCLUSION_FALLOFF = RENDER_NOISE + 4
export const RENDER_OCCLUSION_SINE = RENDER_OCCLUSION_FALLOFF + 4 // square of the sine of the cone's half angle
// Blocks of shadow: on objects, and of chosen objects on everything
export const RENDER_SHADOW_ON = RENDER_OCCLUSION_SINE + 4
export const RENDER_SHADOW_CHOSEN = RENDER_SHADOW_ON + 4
export const RENDER_CATCHER_LIGHT = RENDER_SHADOW_CHOSEN + 4 // block of light: what catchers mirror of the objects
export const RENDER_MIST = RENDER_CATCHER_LIGHT + 4
export const RENDER_MIST_NEAR = RENDER_MIST + 4
export const RENDER_MIST_FAR = RENDER_MIST_NEAR + 4
// Samples after which a kind of pass gets no more; 0: as many as there are
export const RENDER_MOST_LIGHT = RENDER_MIST_FAR + 4
export const RENDER_MOST_SHADOW = RENDER_MOST_LIGHT + 4
export const RENDER_MOST_OCCLUSION = RENDER_MOST_SHADOW + 4
export const RENDER_MOST_BEYOND = RENDER_MOST_OCCLUSION + 4
export const RENDER_VOLUME = RENDER_MOST_BEYOND + 4
export const RENDER_REST = RENDER_VOLUME + 4
// The lens: radius of its opening and distance of its plane of focus, metres (0: a pinhole); the opening's sides, turn in
// radians, square root of how much taller than wide it is, rim, and how much of it the barrel hides at the corners
export const RENDER_OPENING = RENDER_REST + 4
export const RENDER_FOCUS = RENDER_OPENING + 4
export const RENDER_BLADES = RENDER_FOCUS + 4
export const RENDER_TURN = RENDER_BLADES + 4
export const RENDER_SQUEEZE = RENDER_TURN + 4
export const RENDER_RIM = RENDER_SQUEEZE + 4
export const RENDER_CATS_EYE = RENDER_RIM + 4
export const RENDER_SIZE = RENDER_CATS_EYE + 8
export const BEYOND_STRIDE = 12

export const DO_SEE_ENVIRONMENT = 1
export const DO_MOTION = 2
// What passes of data say is of the ray through the middle of the lens
export const DO_SHARP_DATA = 4

// One pixel of the accumulator, in floats: a head, then those blocks that the render needs. The render record says
// where each begins.
export const PIXEL_ALPHA = 0
export const PIXEL_DEPTH_CENTRE = PIXEL_ALPHA + 1
export const PIXEL_OBJECT_CENTRE = PIXEL_DEPTH_CENTRE + 1 // i32, index + 1
export const PIXEL_MATERIAL_CENTRE = PIXEL_OBJECT_CENTRE + 1 // i32
export const PIXEL_DEPTH_NEAREST = PIXEL_MATERIAL_CENTRE + 1
export const PIXEL_OBJECT_NEAREST = PIXEL_DEPTH_NEAREST + 1
export const PIXEL_MATERIAL_NEAREST = PIXEL_OBJECT_NEAREST + 1
export const PIXEL_CATCHER = PIXEL_MATERIAL_NEAREST + 1 // i32, index + 1 of the catcher met first
export const PIXEL_COUNT = PIXEL_CATCHER + 1 // i32, samples that it has
export const PIXEL_RESTS = PIXEL_COUNT + 1 // i32, not 0 when it gets no more
export const PIXEL_SHINING = PIXEL_RESTS + 1 // share of it that surfaces with light of their own have
export const PIXEL_HEAD = PIXEL_SHINING + 1
// Block of light: sums
export const LIGHT_DIFFUSE_DIRECT = 0
export const LIGHT_DIFFUSE_INDIRECT = LIGHT_DIFFUSE_DIRECT + 3
export const LIGHT_REFLECTION = LIGHT_DIFFUSE_INDIRECT + 3
export const LIGHT_REFRACTION = LIGHT_REFLECTION + 3
export const LIGHT_EMISSION = LIGHT_REFRACTION + 3
export const LIGHT_ENVIRONMENT = LIGHT_EMISSION + 3
export const LIGHT_BLOCK = LIGHT_ENVIRONMENT + 3
// Block of raw light: what matt surfaces get, without their colour
export const RAW_DIRECT = 0
export const RAW_INDIRECT = RAW_DIRECT + 3
export const RAW_BLOCK = RAW_INDIRECT + 3
// Block of noise: what every second sample gave of matt light, of light mirrored and let through, of what is seen of
// lamps and the sky itself, and of the shadow (as SHADOW_WITH, SHADOW_WITHOUT); squares of what each sample gave of
// matt
// light, of light mirrored and let through, and of all light together
export const NOISE_MATT = 0
export const NOISE_SENT = NOISE_MATT + 3
export const NOISE_SEEN = NOISE_SENT + 3
export const NOISE_SHADOW = NOISE_SEEN + 3
export const NOISE_SQUARES_MATT = NOISE_SHADOW + 6
export const NOISE_SQUARES_SENT = NOISE_SQUARES_MATT + 3
export const NOISE_SQUARES = NOISE_SQUARES_SENT + 3
export const NOISE_BLOCK = NOISE_SQUARES + 3
// Block of the air: light, and what it covers of what is behind
export const VOLUME_BLOCK = 4
/** Groups of light that are told apart at most; a group takes 3 floats. */
export const MOST_GROUPS = 16
// Block of the surface: sums by share
export const SURFACE_ALBEDO = 0
export const SURFACE_NORMAL = SURFACE_ALBEDO + 3
export const SURFACE_FACING = SURFACE_NORMAL + 3 // cosine to the camera
export const SURFACE_DEPTH = SURFACE_FACING + 1
export const SURFACE_BLOCK = SURFACE_DEPTH + 1
// Block of the place: of what the pixel's middle meets, else of the nearest that a sample met
export const PLACE_POSITION = 0
export const PLACE_UV = PLACE_POSITION + 3
export const PLACE_FORWARD = PLACE_UV + 2 // pixels to where it will be a frame on
export const PLACE_BACK = PLACE_FORWARD + 2 // pixels to where it was a frame ago
export const PLACE_BLOCK = PLACE_BACK + 2
// Block of the place on the thing, of the same
export const REST_BLOCK = 3
// Block of occlusion: open share, and its weight
export const OCCLUSION_BLOCK = 2
// Block of the shadow
export const SHADOW_WITH = 0
export const SHADOW_WITHOUT = SHADOW_WITH + 3
export const SHADOW_SHARE = SHADOW_WITHOUT + 3 // of real ground only: what of the pixel it is
export const SHADOW_BLOCK = SHADOW_SHARE + 1
// Block of what is seen through glass or mirrored: sums by share, and of the middle and the nearest its number and
// metres
export const BEYOND_SHARE = 0
export const BEYOND_OBJECT_CENTRE = BEYOND_SHARE + 1 // i32, index + 1
export const BEYOND_DEPTH_CENTRE = BEYOND_OBJECT_CENTRE + 1
export const BEYOND_OBJECT_NEAREST = BEYOND_DEPTH_CENTRE + 1
export const BEYOND_DEPTH_NEAREST = BEYOND_OBJECT_NEAREST + 1
export const BEYOND_ALBEDO = BEYOND_DEPTH_NEAREST + 1
export const BEYOND_NORMAL = BEYOND_ALBEDO + 3
export const BEYOND_BLOCK = BEYOND_NORMAL + 3
export const SEEN_THROUGH = 0
export const SEEN_MIRRORED = 1
/** A block of coverage holds slots of i32 index + 1 and f32 weight: two more than ranks are asked for. */
export const SPARE_SLOTS = 2

/** Rows of a band, where a kernel counts by bands. */
export const BAND_ROWS = 16
// What the kernel Look keeps of a place: i32 object and material, + 1, 0 for none, f32 metres along the view axis,
// normal
export const LOOK_STRIDE = 24
// How the kernel Resolve makes a plane of the accumulator
export const RESOLVE_MEAN = 0
export const RESOLVE_RATIO = 1 // over a weight for each channel
export const RESOLVE_SHARE = 2 // over one weight for all channels
export const RESOLVE_DIRECTION = 3 // to unit length
export const RESOLVE_WORD = 4 // as it stands
export const RESOLVE_CHOICE = 5 // the middle's where it met something, else the nearest's
// Bytes of one object’s gains, three fours: 4 parts; 2 parts, occlusion, contrast; each channel, saturation
export const DESK_ROW = 48
export const DESK_GAIN = 32
export const COVERAGE_RANKS = 6 // ranks kept for a picture: pairs of f32 object index and f32 weight
export const RANKS_BYTES = 48
/** Pixels round one that say where a cut in depth goes: wider than the pixel filter reaches (1.5) on both sides. */
export const CUT_REACH = 3
/** What no circle is as large as: with the level on which something was found behind. */
export const FOUND_ON_LEVEL = 1e6
