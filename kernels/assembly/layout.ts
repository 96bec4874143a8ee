// Byte layouts that the kernels and the TypeScript that feeds them share. Plain integer constants only, so that
// both compilers read this one file. All fields are 4 bytes: i32 (pointers, counts, flags) or f32.

// Control block at the bottom of the shared memory: how a pool hands bands of work to its workers
// (core/engine/pool.ts).
export const CONTROL_GENERATION = 0
export const CONTROL_NEXT_BAND = 4
export const CONTROL_BAND_COUNT = 8
export const CONTROL_DONE = 12
export const CONTROL_STOP = 16
// The program: where its steps stand, how many, what rows of which columns, and rows of a band
export const CONTROL_STEPS = 20
export const CONTROL_STEP_COUNT = 24
export const CONTROL_LEFT = 28
export const CONTROL_TOP = 32
export const CONTROL_RIGHT = 36
export const CONTROL_BOTTOM = 40
export const CONTROL_ROWS = 44
// Room for pictures of one band: of all threads, of one thread, and of one picture
export const CONTROL_ROOM = 48
export const CONTROL_THREAD_ROOM = 52
export const CONTROL_SLOT = 56
// Code of rows of points (core/formula): how often all was given up, how many there are, where their list stands (address
// and bytes of each)
export const CONTROL_FORMULA_ERA = 60
export const CONTROL_FORMULA_COUNT = 64
export const CONTROL_FORMULA_LIST = 68
// 1 where a thread could not do its band
export const CONTROL_FAILED = 72
export const CONTROL_SIZE = 4096

// A step of a program: kernel, bytes of the whole step, pictures among its arguments, its area; then the arguments
export const STEP_KERNEL = 0
export const STEP_BYTES = 4
export const STEP_RASTERS = 8
export const STEP_LEFT = 12
export const STEP_TOP = 16
export const STEP_RIGHT = 20
export const STEP_BOTTOM = 24
export const STEP_ARGUMENTS = 32
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
// Behind the pictures of a row of points, room for four pixels of each
export const FORMULA_TAIL = 256
export const SCRATCH_SIZE = 13312

// Four-wide node: minX[4] minY[4] minZ[4] maxX[4] maxY[4] maxZ[4] child[4] pad[4].
// child >= 0: node index; child < 0: packet index ~child, or PLACE_LEAF and the number of a place; empty lanes have an
// inverted box.
export const NODE_STRIDE = 128
export const NODE_CHILD = 96
// Packet of four triangles: v0 xyz[4], edge1 xyz[4], edge2 xyz[4], triangle index[4], flags[4].
export const PACKET_STRIDE = 176
export const PACKET_INDEX = 144
export const PACKET_FLAGS = 160

// A place where a mesh stands that stands in several: the mesh's triangles and vertices are in its own space
export const PLACE_LEAF = 0x40000000
export const PLACE_STRIDE = 112
export const PLACE_INTO = 0 // three rows of four that take the world to the mesh's space
export const PLACE_OUT = 48 // and back
export const PLACE_OBJECT = 96
export const PLACE_ROOT = 100 // node of its mesh
/** Where a place is in another frame: rows as PLACE_OUT. */
export const PLACE_ROWS = 48

export const FLAG_TRANSPARENT = 1 // opacity must be looked up
export const FLAG_HIDDEN = 2 // not seen by camera rays
export const FLAG_SYNTHETIC = 4 // a rendered object, as against a stand-in for something in the plate
export const FLAG_EMPTY = 8 // unused lane
export const FLAG_CHOSEN = 16 // its shadow is kept on its own
export const FLAG_LIGHT = 32 // does not darken others by occlusion

// Triangle: vertex indices, object index, material index, light index or -1
export const TRIANGLE_STRIDE = 24
// Vertex: position 3, normal 3, uv 2, tangent 4
export const VERTEX_STRIDE = 48

export const OBJECT_STRIDE = 32
export const OBJECT_ROLE = 0 // 0 ordinary, 1 shadow catcher, 2 holdout
export const OBJECT_PRINTS = 4 // pointer
export const OBJECT_PRINT_COUNT = 8
export const OBJECT_FLAGS = 12
export const OBJECT_ASSET = 16 // number of the whole that it belongs to
export const OBJECT_GROUP = 20 // group that its own light counts in
export const OBJECT_PLATE = 1 // sends the light that the plate shows there
export const OBJECT_LETS_THROUGH = 2 // a catcher behind which things are seen
export const OBJECT_UNDARKENED = 4 // not darkened by occlusion
export const OBJECT_MIRROR = 24 // f32: how much of what a smooth wet ground would mirror a catcher mirrors
export const OBJECT_MIRROR_ROUGHNESS = 28
export const ROLE_CATCHER = 1
export const ROLE_HOLDOUT = 2

export const MATERIAL_STRIDE = 180
export const MATERIAL_BASE = 0 // rgba
export const MATERIAL_METALLIC = 16
export const MATERIAL_ROUGHNESS = 20
export const MATERIAL_EMISSION = 24 // rgb
export const MATERIAL_ALPHA_MODE = 36 // 0 opaque, 1 mask, 2 blend
export const MATERIAL_CUTOFF = 40
export const MATERIAL_NORMAL_SCALE = 44
export const MATERIAL_TEXTURE_BASE = 48 // texture indices, -1 when there is none
export const MATERIAL_TEXTURE_ROUGHNESS = 52
export const MATERIAL_TEXTURE_NORMAL = 56
export const MATERIAL_TEXTURE_EMISSION = 60
export const MATERIAL_DOUBLE_SIDED = 64
export const MATERIAL_TRANSMISSION = 68
export const MATERIAL_IOR = 72 // index of refraction
export const MATERIAL_GLASS = 76 // GLASS_...
export const MATERIAL_TEXTURE_TRANSMISSION = 80
export const MATERIAL_ABSORB = 84 // rgb, a metre
// What one scattering mirrors and lets through, pairs: from outside and from within, GLASS_COLUMNS x 32 each; of a sheet
// once
export const MATERIAL_GLASS_TABLE = 96
// rgb: what a dielectric mirrors straight on, in place of what its index says, over its strength
export const MATERIAL_SPECULAR = 100
export const MATERIAL_SPECULAR_STRENGTH = 112
export const MATERIAL_COAT = 116 // lacquer: strength, and width of its GGX
export const MATERIAL_COAT_ALPHA = 120
export const MATERIAL_SHEEN = 124 // rgb, and the square of its roughness
export const MATERIAL_SHEEN_ALPHA = 136
// Pictures that say how much of these there is, -1 for none; not 0 when there is one at all
export const MATERIAL_GLOSS_PICTURES = 152
export const MATERIAL_TEXTURE_SPECULAR = 156 // strength: A
export const MATERIAL_TEXTURE_SPECULAR_COLOUR = 160 // RGB
export const MATERIAL_TEXTURE_COAT = 164 // strength: R
export const MATERIAL_TEXTURE_COAT_ROUGHNESS = 168 // G
export const MATERIAL_TEXTURE_SHEEN = 172 // RGB
export const MATERIAL_TEXTURE_SHEEN_ROUGHNESS = 176 // A
export const GLASS_COLUMNS = 64
export const GLASS_SOLID = 1 // light is bent into it and out of it
export const GLASS_SHEET = 2 // both faces in one, rough: light goes on scattered
export const GLASS_PANE = 3 // both faces in one, smooth: seen through like a surface of that much less opacity

// A picture laid on an object: rows of four that take a place of the world to u, v (0..1) and metres along the throw
export const PRINT_STRIDE = 96
export const PRINT_U = 0
export const PRINT_V = 16
export const PRINT_W = 32
export const PRINT_FROM = 48 // parallel: unit vector back to where it is thrown from; else the place itself
export const PRINT_PERSPECTIVE = 60 // u and v are divided by the metres
export const PRINT_NEAR = 64
export const PRINT_FAR = 68
export const PRINT_TEXTURE = 72
export const PRINT_INSTEAD = 76 // in place of the material
export const PRINT_ROUGHNESS = 80 // below 0: the material's
export const PRINT_OPACITY = 84
export const PRINT_NEAREST = 88 // f32 metres over the picture: what is met first
export const PRINT_BIAS = 92
export const PRINT_CELLS = 256

export const TEXTURE_STRIDE = 52
export const TEXTURE_POINTER = 0
export const TEXTURE_WIDTH = 4
export const TEXTURE_HEIGHT = 8
export const TEXTURE_SRGB = 12
export const TEXTURE_WRAP_S = 16 // 0 repeat, 1 clamp, 2 mirror
export const TEXTURE_WRAP_T = 20
export const TEXTURE_SET = 24 // which of the two sets of surface coordinates, 0 or 1; 2 and 3 the same, moved by
export const TEXTURE_MOVE = 28 // rows of three that take them to the picture's

// A medium: extinction a metre, and what of it is scattered
export const VOLUME_STRIDE = 112
export const VOLUME_KIND = 0 // 0 box, VOLUME_SPACE, VOLUME_MESH
export const VOLUME_SPACE = 1
export const VOLUME_MESH = 2
export const VOLUME_ROWS = 4 // three rows of four that take a place of the world into the box, -0.5..0.5
export const VOLUME_DENSITY = 52
export const VOLUME_COLOUR = 56 // rgb, share that is scattered
export const VOLUME_FORWARD = 68 // mean cosine of its directions
export const VOLUME_NOISE = 72
export const VOLUME_NOISE_SCALE = 76
export const VOLUME_SEED = 80
export const VOLUME_BASE = 84 // height in metres from which it thins out, by so much a metre
export const VOLUME_FALL = 88
export const VOLUME_SCENE = 92 // scene record that holds nothing but its mesh

export const LIGHT_STRIDE = 96
export const LIGHT_KIND = 0 // 0 sun, 1 soft box, 2 emissive triangle, 3 point, 4 spot, 5 disc, 6 ball, 7 tube
export const LIGHT_POSITION = 4
export const LIGHT_NORMAL = 16 // where it shines to (unit)
// half side vector; disc: a radius as vector; ball: its radius; tube: radius; emissive triangle: triangle index in the
// first field
export const LIGHT_U = 28
export const LIGHT_V = 40 // the other half side or radius; tube: from its middle to its end
export const LIGHT_RADIANCE = 52
export const LIGHT_AREA = 64 // m2; sun: solid angle
// sun: cosine of the angular radius; spot and disc: of the outer angle of the cone (disc: below -1 without)
export const LIGHT_COSINE = 68
export const LIGHT_POWER = 72 // sun: W/m2 that it sends
export const LIGHT_COSINE_INNER = 76
export const LIGHT_EDGE1 = 80 // emissive triangle: two sided
export const LIGHT_GROUP = 84
export const LIGHT_TRAIL = 88 // u32, turns from the root of the tree to it: bit 0 first, 1 is right

// Node of the tree that lights are picked by: ball round its lights, cone round the ways they face (cosines), what they
// give (W/sr), children or the light
export const TREE_STRIDE = 64
export const TREE_CENTRE = 0
export const TREE_RADIUS = 12
export const TREE_AXIS = 16
export const TREE_CONE = 28 // -1: all round
export const TREE_EMITS = 32
export const TREE_POWER = 36
export const TREE_LEFT = 40 // i32, -1 at a leaf
export const TREE_RIGHT = 44
export const TREE_LIGHT = 48

export const SCENE_SIZE = 256
export const SCENE_NODES = 0
export const SCENE_PACKETS = 4
export const SCENE_TRIANGLES = 8
export const SCENE_VERTICES = 12
export const SCENE_OBJECTS = 16
export const SCENE_MATERIALS = 20
export const SCENE_TEXTURES = 24
export const SCENE_LIGHTS = 28
export const SCENE_LIGHT_TREE = 36 // 0 where there are none but suns
export const SCENE_ENVIRONMENT = 40 // RGBA f32 pixels of an equirectangular picture, 0 when there is none
export const SCENE_ENVIRONMENT_WIDTH = 44
export const SCENE_ENVIRONMENT_HEIGHT = 48
export const SCENE_ENVIRONMENT_MARGINAL = 52 // cumulative by row
export const SCENE_ENVIRONMENT_CONDITIONAL = 56 // cumulative by pixel in a row
export const SCENE_ENVIRONMENT_GRID_WIDTH = 60
export const SCENE_ENVIRONMENT_GRID_HEIGHT = 64
export const SCENE_ENVIRONMENT_DENSITY = 68 // per cell, relative to uniform over the unit square
export const SCENE_ENVIRONMENT_TURN = 72 // turns about +Y
export const SCENE_ENVIRONMENT_GAIN = 76 // rgb
export const SCENE_ALBEDO_TABLE = 88 // directional albedo of GGX: A and B, 32 x 32 each
export const SCENE_ROOT = 92 // node, below 0 when there is nothing
export const SCENE_PLATE = 96 // RGBA f32 pixels, 0 when there is none
export const SCENE_PLATE_WIDTH = 100
export const SCENE_PLATE_HEIGHT = 104
export const SCENE_PLATE_U = 108 // rows of four: u and v times the metres along the view axis, and those metres
export const SCENE_PLATE_V = 124
export const SCENE_PLATE_W = 140
export const SCENE_PLATE_MEAN = 156 // rgb
export const SCENE_NEXT = 168 // places of all vertices a frame on: 3 f32 each, 0 when they are the same
export const SCENE_PREVIOUS = 172 // and a frame ago
export const SCENE_ENVIRONMENT_GROUP = 176 // groups that light of the environment and of the plate counts in
export const SCENE_PLATE_GROUP = 180
export const SCENE_SHEEN_TABLE = 188 // directional albedo of the sheen, as the table above it
export const SCENE_SUN_COUNT = 212 // the first lights of the list
export const SCENE_LAMP_COUNT = 216 // suns and lamps, before the shining triangles
export const SCENE_PLACES = 200
export const SCENE_PLACES_NEXT = 204 // PLACE_ROWS a place, 0 when nothing moves
export const SCENE_PLACES_PREVIOUS = 208
export const SCENE_VOLUMES = 192
export const SCENE_VOLUME_COUNT = 196
export const SCENE_EXTRA = 184 // EXTRA_STRIDE a vertex: second surface coordinates and colour; 0 where no mesh has any
export const EXTRA_STRIDE = 12
export const EXTRA_COLOUR = 8 // RGBA, 8 bit, the colour sRGB-coded

export const RENDER_SIZE = 384
export const RENDER_ACCUMULATOR = 0
export const RENDER_WIDTH = 4
export const RENDER_HEIGHT = 8
export const RENDER_FIRST_ROW = 12 // first row that the accumulator holds
export const RENDER_SAMPLE_COUNT = 20
export const RENDER_SEED = 24
export const RENDER_MAX_BOUNCES = 28
export const RENDER_FLAGS = 32
export const RENDER_OCCLUSION_REACH = 36
export const RENDER_CLAMP = 40
export const RENDER_CAMERA = 44 // position 3, right 3, up 3, back 3
export const RENDER_TAN_X = 92 // half width of the view at distance 1
export const RENDER_TAN_Y = 96
export const RENDER_SHIFT_X = 100 // principal point shift in half widths
export const RENDER_SHIFT_Y = 104
export const RENDER_FILTER = 108 // inverse cumulative table of the pixel filter, 257 offsets in pixels
export const RENDER_SCENE = 112
export const RENDER_ROW_OFFSET = 116 // row of band 0
// Where blocks begin in a pixel of the accumulator, in floats; 0 for one that is not there
export const RENDER_LIGHT = 120
export const RENDER_SURFACE = 124
export const RENDER_PLACE = 128
export const RENDER_OCCLUSION = 132
export const RENDER_SHADOW = 136
export const RENDER_CRYPTO_OBJECT = 140
export const RENDER_CRYPTO_MATERIAL = 144
export const RENDER_CRYPTO_ASSET = 148
export const RENDER_STRIDE = 152 // floats a pixel
export const RENDER_SLOTS = 156 // of a block of coverage
export const RENDER_NEXT = 160 // camera a frame on: position, right, up, back, half widths at 1, shifts
export const RENDER_PREVIOUS = 224 // and a frame ago
// What is seen through glass, and after it what is mirrored: its block, its objects' and its materials' coverage
export const RENDER_BEYOND = 288
export const BEYOND_STRIDE = 12
export const RENDER_GROUPS = 312 // block of sums of light by group
export const RENDER_RAW = 316
export const RENDER_NOISE = 320
// power of what is left of the reach by which far things count for less; 0: all count the same
export const RENDER_OCCLUSION_FALLOFF = 324
export const RENDER_OCCLUSION_SINE = 328 // square of the sine of the cone's half angle
export const RENDER_SHADOW_ON = 332 // blocks of shadow: on objects, and of chosen objects on everything
export const RENDER_SHADOW_CHOSEN = 336
export const RENDER_CATCHER_LIGHT = 340 // block of light: what catchers mirror of the objects
export const RENDER_MIST = 344
export const RENDER_MIST_NEAR = 348
export const RENDER_MIST_FAR = 352
// Samples after which a kind of pass gets no more; 0: as many as there are
export const RENDER_MOST_LIGHT = 356
export const RENDER_VOLUME = 372
export const RENDER_MOST_SHADOW = 360
export const RENDER_MOST_OCCLUSION = 364
export const RENDER_MOST_BEYOND = 368

export const DO_SEE_ENVIRONMENT = 1
export const DO_MOTION = 2

// One pixel of the accumulator, in floats: a head, then those blocks that the render needs. The render record says
// where each begins.
export const PIXEL_ALPHA = 0
export const PIXEL_DEPTH_CENTRE = 1
export const PIXEL_OBJECT_CENTRE = 2 // i32, index + 1
export const PIXEL_MATERIAL_CENTRE = 3 // i32
export const PIXEL_DEPTH_NEAREST = 4
export const PIXEL_OBJECT_NEAREST = 5
export const PIXEL_MATERIAL_NEAREST = 6
export const PIXEL_CATCHER = 7 // i32, index + 1 of the catcher met first
export const PIXEL_COUNT = 8 // i32, samples that it has
export const PIXEL_RESTS = 9 // i32, not 0 when it gets no more
export const PIXEL_SHINING = 10 // share of it that surfaces with light of their own have
export const PIXEL_HEAD = 11
// Block of light: sums
export const LIGHT_DIFFUSE_DIRECT = 0
export const LIGHT_DIFFUSE_INDIRECT = 3
export const LIGHT_REFLECTION = 6
export const LIGHT_REFRACTION = 9
export const LIGHT_EMISSION = 12
export const LIGHT_ENVIRONMENT = 15
export const LIGHT_BLOCK = 18
// Block of raw light: what matt surfaces get, without their colour
export const RAW_DIRECT = 0
export const RAW_INDIRECT = 3
export const RAW_BLOCK = 6
// Block of noise: what every second sample gave of matt light, of light mirrored and let through, of what is seen of
// lamps and the sky itself, and of the shadow (as SHADOW_WITH, SHADOW_WITHOUT); squares of what each sample gave of matt
// light, of light mirrored and let through, and of all light together
export const NOISE_MATT = 0
export const NOISE_SENT = 3
export const NOISE_SEEN = 6
export const NOISE_SHADOW = 9
export const NOISE_SQUARES_MATT = 15
export const NOISE_SQUARES_SENT = 18
export const NOISE_SQUARES = 21
export const NOISE_BLOCK = 24
// Block of the air: light, and what it covers of what is behind
export const VOLUME_BLOCK = 4
/** Groups of light that are told apart at most; a group takes 3 floats. */
export const MOST_GROUPS = 16
// Block of the surface: sums by share
export const SURFACE_ALBEDO = 0
export const SURFACE_NORMAL = 3
export const SURFACE_FACING = 6 // cosine to the camera
export const SURFACE_DEPTH = 7
export const SURFACE_BLOCK = 8
// Block of the place: of what the pixel's middle meets, else of the nearest that a sample met
export const PLACE_POSITION = 0
export const PLACE_UV = 3
export const PLACE_FORWARD = 5 // pixels to where it will be a frame on
export const PLACE_BACK = 7 // pixels to where it was a frame ago
export const PLACE_BLOCK = 9
// Block of occlusion: open share, and its weight
export const OCCLUSION_BLOCK = 2
// Block of the shadow
export const SHADOW_WITH = 0
export const SHADOW_WITHOUT = 3
export const SHADOW_SHARE = 6 // of real ground only: what of the pixel it is
export const SHADOW_BLOCK = 7
// Block of what is seen through glass or mirrored: sums by share, and of the middle and the nearest its number and
// metres
export const BEYOND_SHARE = 0
export const BEYOND_OBJECT_CENTRE = 1 // i32, index + 1
export const BEYOND_DEPTH_CENTRE = 2
export const BEYOND_OBJECT_NEAREST = 3
export const BEYOND_DEPTH_NEAREST = 4
export const BEYOND_ALBEDO = 5
export const BEYOND_NORMAL = 8
export const BEYOND_BLOCK = 11
export const SEEN_THROUGH = 0
export const SEEN_MIRRORED = 1
/** A block of coverage holds slots of i32 index + 1 and f32 weight: two more than ranks are asked for. */
export const SPARE_SLOTS = 2

/** Rows of a band, where a kernel counts by bands. */
export const BAND_ROWS = 16
// What the kernel Look keeps of a place: i32 object and material, + 1, 0 for none, f32 metres along the view axis, normal
export const LOOK_STRIDE = 24
// How the kernel Resolve makes a plane of the accumulator
export const RESOLVE_MEAN = 0
export const RESOLVE_RATIO = 1 // over a weight for each channel
export const RESOLVE_SHARE = 2 // over one weight for all channels
export const RESOLVE_DIRECTION = 3 // to unit length
export const RESOLVE_WORD = 4 // as it stands
export const RESOLVE_CHOICE = 5 // the middle's where it met something, else the nearest's
export const DESK_ROW = 48 // bytes of one object's gains: 6 parts, occlusion, exposure gain, saturation, and room
export const COVERAGE_RANKS = 6 // ranks kept for a picture: pairs of f32 object index and f32 weight
export const RANKS_BYTES = 48
/** Pixels round one that say where a cut in depth goes: wider than the pixel filter reaches (1.5) on both sides. */
export const CUT_REACH = 3
