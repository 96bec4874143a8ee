// A scene as the renderer reads it. All fields are 4 bytes: i32 (pointers, counts, flags) or f32.
// Each field stands behind the one before it. Plain integer constants only, so that both compilers read this one file.

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
export const PLACE_OUT = PLACE_INTO + 48 // and back
export const PLACE_OBJECT = PLACE_OUT + 48
export const PLACE_ROOT = PLACE_OBJECT + 4 // node of its mesh
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

export const OBJECT_ROLE = 0 // 0 ordinary, 1 shadow catcher, 2 holdout
export const OBJECT_PRINTS = OBJECT_ROLE + 4 // pointer
export const OBJECT_PRINT_COUNT = OBJECT_PRINTS + 4
export const OBJECT_FLAGS = OBJECT_PRINT_COUNT + 4
export const OBJECT_ASSET = OBJECT_FLAGS + 4 // number of the whole that it belongs to
export const OBJECT_GROUP = OBJECT_ASSET + 4 // group that its own light counts in
// F32: how much of what a smooth wet ground would mirror a catcher mirrors
export const OBJECT_MIRROR = OBJECT_GROUP + 4
export const OBJECT_MIRROR_ROUGHNESS = OBJECT_MIRROR + 4
export const OBJECT_STRIDE = OBJECT_MIRROR_ROUGHNESS + 4
export const OBJECT_PLATE = 1 // sends the light that the plate shows there
export const OBJECT_LETS_THROUGH = 2 // a catcher behind which things are seen
export const OBJECT_UNDARKENED = 4 // not darkened by occlusion
export const ROLE_CATCHER = 1
export const ROLE_HOLDOUT = 2

export const MATERIAL_BASE = 0 // rgba
export const MATERIAL_METALLIC = MATERIAL_BASE + 16
export const MATERIAL_ROUGHNESS = MATERIAL_METALLIC + 4
export const MATERIAL_EMISSION = MATERIAL_ROUGHNESS + 4 // rgb
export const MATERIAL_ALPHA_MODE = MATERIAL_EMISSION + 12 // 0 opaque, 1 mask, 2 blend
export const MATERIAL_CUTOFF = MATERIAL_ALPHA_MODE + 4
export const MATERIAL_NORMAL_SCALE = MATERIAL_CUTOFF + 4
export const MATERIAL_TEXTURE_BASE = MATERIAL_NORMAL_SCALE + 4 // texture indices, -1 when there is none
export const MATERIAL_TEXTURE_ROUGHNESS = MATERIAL_TEXTURE_BASE + 4
export const MATERIAL_TEXTURE_NORMAL = MATERIAL_TEXTURE_ROUGHNESS + 4
export const MATERIAL_TEXTURE_EMISSION = MATERIAL_TEXTURE_NORMAL + 4
export const MATERIAL_DOUBLE_SIDED = MATERIAL_TEXTURE_EMISSION + 4
export const MATERIAL_TRANSMISSION = MATERIAL_DOUBLE_SIDED + 4
export const MATERIAL_IOR = MATERIAL_TRANSMISSION + 4 // index of refraction
export const MATERIAL_GLASS = MATERIAL_IOR + 4 // GLASS_...
export const MATERIAL_TEXTURE_TRANSMISSION = MATERIAL_GLASS + 4
export const MATERIAL_ABSORB = MATERIAL_TEXTURE_TRANSMISSION + 4 // rgb, a metre
// What one scattering mirrors and lets through, pairs: from outside and from within, GLASS_COLUMNS x 32 each; of a
// sheet
// once
export const MATERIAL_GLASS_TABLE = MATERIAL_ABSORB + 12
// rgb: what a dielectric mirrors straight on, in place of what its index says, over its strength
export const MATERIAL_SPECULAR = MATERIAL_GLASS_TABLE + 4
export const MATERIAL_SPECULAR_STRENGTH = MATERIAL_SPECULAR + 12
export const MATERIAL_COAT = MATERIAL_SPECULAR_STRENGTH + 4 // lacquer: strength, and width of its GGX
export const MATERIAL_COAT_ALPHA = MATERIAL_COAT + 4
export const MATERIAL_SHEEN = MATERIAL_COAT_ALPHA + 4 // rgb, and the square of its roughness
export const MATERIAL_SHEEN_ALPHA = MATERIAL_SHEEN + 12
// Pictures that say how much of these there is, -1 for none; not 0 when there is one at all
export const MATERIAL_GLOSS_PICTURES = MATERIAL_SHEEN_ALPHA + 16
export const MATERIAL_TEXTURE_SPECULAR = MATERIAL_GLOSS_PICTURES + 4 // strength: A
export const MATERIAL_TEXTURE_SPECULAR_COLOUR = MATERIAL_TEXTURE_SPECULAR + 4 // RGB
export const MATERIAL_TEXTURE_COAT = MATERIAL_TEXTURE_SPECULAR_COLOUR + 4 // strength: R
export const MATERIAL_TEXTURE_COAT_ROUGHNESS = MATERIAL_TEXTURE_COAT + 4 // G
export const MATERIAL_TEXTURE_SHEEN = MATERIAL_TEXTURE_COAT_ROUGHNESS + 4 // RGB
export const MATERIAL_TEXTURE_SHEEN_ROUGHNESS = MATERIAL_TEXTURE_SHEEN + 4 // A
export const MATERIAL_STRIDE = MATERIAL_TEXTURE_SHEEN_ROUGHNESS + 4
export const GLASS_COLUMNS = 64
export const GLASS_SOLID = 1 // light is bent into it and out of it
export const GLASS_SHEET = 2 // both faces in one, rough: light goes on scattered
export const GLASS_PANE = 3 // both faces in one, smooth: seen through like a surface of that much less opacity

// A picture laid on an object: rows of four that take a place of the world to u, v (0..1) and metres along the throw
export const PRINT_U = 0
export const PRINT_V = PRINT_U + 16
export const PRINT_W = PRINT_V + 16
export const PRINT_FROM = PRINT_W + 16 // parallel: unit vector back to where it is thrown from; else the place itself
export const PRINT_PERSPECTIVE = PRINT_FROM + 12 // u and v are divided by the metres
export const PRINT_NEAR = PRINT_PERSPECTIVE + 4
export const PRINT_FAR = PRINT_NEAR + 4
export const PRINT_TEXTURE = PRINT_FAR + 4
export const PRINT_INSTEAD = PRINT_TEXTURE + 4 // in place of the material
export const PRINT_ROUGHNESS = PRINT_INSTEAD + 4 // below 0: the material's
export const PRINT_OPACITY = PRINT_ROUGHNESS + 4
export const PRINT_NEAREST = PRINT_OPACITY + 4 // f32 metres over the picture: what is met first
export const PRINT_BIAS = PRINT_NEAREST + 4
export const PRINT_STRIDE = PRINT_BIAS + 4
export const PRINT_CELLS = 256

export const TEXTURE_POINTER = 0
export const TEXTURE_WIDTH = TEXTURE_POINTER + 4
export const TEXTURE_HEIGHT = TEXTURE_WIDTH + 4
export const TEXTURE_CODES = TEXTURE_HEIGHT + 4 // 0 bytes as they stand, 1 sRGB bytes, 2 floats, premultiplied
export const TEXTURE_WRAP_S = TEXTURE_CODES + 4 // 0 repeat, 1 clamp, 2 mirror
export const TEXTURE_WRAP_T = TEXTURE_WRAP_S + 4
// Which of the two sets of surface coordinates, 0 or 1; 2 and 3 the same, moved by
export const TEXTURE_SET = TEXTURE_WRAP_T + 4
export const TEXTURE_MOVE = TEXTURE_SET + 4 // rows of three that take them to the picture's
export const TEXTURE_STRIDE = TEXTURE_MOVE + 24

// A medium: extinction a metre, and what of it is scattered
export const VOLUME_KIND = 0 // 0 box, VOLUME_SPACE, VOLUME_MESH
export const VOLUME_ROWS = VOLUME_KIND + 4 // three rows of four that take a place of the world into the box, -0.5..0.5
export const VOLUME_DENSITY = VOLUME_ROWS + 48
export const VOLUME_COLOUR = VOLUME_DENSITY + 4 // rgb, share that is scattered
export const VOLUME_FORWARD = VOLUME_COLOUR + 12 // mean cosine of its directions
export const VOLUME_NOISE = VOLUME_FORWARD + 4
export const VOLUME_NOISE_SCALE = VOLUME_NOISE + 4
export const VOLUME_SEED = VOLUME_NOISE_SCALE + 4
export const VOLUME_BASE = VOLUME_SEED + 4 // height in metres from which it thins out, by so much a metre
export const VOLUME_FALL = VOLUME_BASE + 4
export const VOLUME_SCENE = VOLUME_FALL + 4 // scene record that holds nothing but its mesh
export const VOLUME_STRIDE = VOLUME_SCENE + 20
export const VOLUME_SPACE = 1
export const VOLUME_MESH = 2

export const LIGHT_KIND = 0 // 0 sun, 1 soft box, 2 emissive triangle, 3 point, 4 spot, 5 disc, 6 ball, 7 tube
export const LIGHT_POSITION = LIGHT_KIND + 4
export const LIGHT_NORMAL = LIGHT_POSITION + 12 // where it shines to (unit)
// half side vector; disc: a radius as vector; ball: its radius; tube: radius; emissive triangle: triangle index in the
// first field
export const LIGHT_U = LIGHT_NORMAL + 12
export const LIGHT_V = LIGHT_U + 12 // the other half side or radius; tube: from its middle to its end
export const LIGHT_RADIANCE = LIGHT_V + 12
export const LIGHT_AREA = LIGHT_RADIANCE + 12 // m2; sun: solid angle
// sun: cosine of the angular radius; spot and disc: of the outer angle of the cone (disc: below -1 without)
export const LIGHT_COSINE = LIGHT_AREA + 4
export const LIGHT_POWER = LIGHT_COSINE + 4 // sun: W/m2 that it sends
export const LIGHT_COSINE_INNER = LIGHT_POWER + 4
export const LIGHT_EDGE1 = LIGHT_COSINE_INNER + 4 // emissive triangle: two sided
export const LIGHT_GROUP = LIGHT_EDGE1 + 4
export const LIGHT_TRAIL = LIGHT_GROUP + 4 // u32, turns from the root of the tree to it: bit 0 first, 1 is right
export const LIGHT_STRIDE = LIGHT_TRAIL + 8

// Node of the tree that lights are picked by: ball round its lights, cone round the ways they face (cosines), what they
// give (W/sr), children or the light
export const TREE_CENTRE = 0
export const TREE_RADIUS = TREE_CENTRE + 12
export const TREE_AXIS = TREE_RADIUS + 4
export const TREE_CONE = TREE_AXIS + 12 // -1: all round
export const TREE_EMITS = TREE_CONE + 4
export const TREE_POWER = TREE_EMITS + 4
export const TREE_LEFT = TREE_POWER + 4 // i32, -1 at a leaf
export const TREE_RIGHT = TREE_LEFT + 4
export const TREE_LIGHT = TREE_RIGHT + 4
export const TREE_STRIDE = TREE_LIGHT + 16
// Radians beside its cone at which a spot that is a point still counts as shining: the tree tells beams by it
export const BEAM_EMITS = 0.01

export const SCENE_NODES = 0
export const SCENE_PACKETS = SCENE_NODES + 4
export const SCENE_TRIANGLES = SCENE_PACKETS + 4
export const SCENE_VERTICES = SCENE_TRIANGLES + 4
export const SCENE_OBJECTS = SCENE_VERTICES + 4
export const SCENE_MATERIALS = SCENE_OBJECTS + 4
export const SCENE_TEXTURES = SCENE_MATERIALS + 4
export const SCENE_LIGHTS = SCENE_TEXTURES + 4
export const SCENE_LIGHT_TREE = SCENE_LIGHTS + 8 // 0 where there are none but suns
// RGBA f32 pixels of an equirectangular picture, 0 when there is none
export const SCENE_ENVIRONMENT = SCENE_LIGHT_TREE + 4
export const SCENE_ENVIRONMENT_WIDTH = SCENE_ENVIRONMENT + 4
export const SCENE_ENVIRONMENT_HEIGHT = SCENE_ENVIRONMENT_WIDTH + 4
export const SCENE_ENVIRONMENT_MARGINAL = SCENE_ENVIRONMENT_HEIGHT + 4 // cumulative by row
export const SCENE_ENVIRONMENT_CONDITIONAL = SCENE_ENVIRONMENT_MARGINAL + 4 // cumulative by pixel in a row
export const SCENE_ENVIRONMENT_GRID_WIDTH = SCENE_ENVIRONMENT_CONDITIONAL + 4
export const SCENE_ENVIRONMENT_GRID_HEIGHT = SCENE_ENVIRONMENT_GRID_WIDTH + 4
// Per cell, relative to uniform over the unit square
export const SCENE_ENVIRONMENT_DENSITY = SCENE_ENVIRONMENT_GRID_HEIGHT + 4
export const SCENE_ENVIRONMENT_TURN = SCENE_ENVIRONMENT_DENSITY + 4 // turns about +Y
export const SCENE_ENVIRONMENT_GAIN = SCENE_ENVIRONMENT_TURN + 4 // rgb
export const SCENE_ALBEDO_TABLE = SCENE_ENVIRONMENT_GAIN + 12 // directional albedo of GGX: A and B, 32 x 32 each
export const SCENE_ROOT = SCENE_ALBEDO_TABLE + 4 // node, below 0 when there is nothing
export const SCENE_PLATE = SCENE_ROOT + 4 // RGBA f32 pixels, 0 when there is none
export const SCENE_PLATE_WIDTH = SCENE_PLATE + 4
export const SCENE_PLATE_HEIGHT = SCENE_PLATE_WIDTH + 4
// Rows of four: u and v times the metres along the view axis, and those metres
export const SCENE_PLATE_U = SCENE_PLATE_HEIGHT + 4
export const SCENE_PLATE_V = SCENE_PLATE_U + 16
export const SCENE_PLATE_W = SCENE_PLATE_V + 16
export const SCENE_PLATE_MEAN = SCENE_PLATE_W + 16 // rgb
// Places of all vertices a frame on: 3 f32 each, 0 when they are the same
export const SCENE_NEXT = SCENE_PLATE_MEAN + 12
export const SCENE_PREVIOUS = SCENE_NEXT + 4 // and a frame ago
// Groups that light of the environment and of the plate counts in
export const SCENE_ENVIRONMENT_GROUP = SCENE_PREVIOUS + 4
export const SCENE_PLATE_GROUP = SCENE_ENVIRONMENT_GROUP + 4
// EXTRA_STRIDE a vertex: second surface coordinates and colour; 0 where no mesh has any
export const SCENE_EXTRA = SCENE_PLATE_GROUP + 4
export const SCENE_SHEEN_TABLE = SCENE_EXTRA + 4 // directional albedo of the sheen, as the table above it
export const SCENE_VOLUMES = SCENE_SHEEN_TABLE + 4
export const SCENE_VOLUME_COUNT = SCENE_VOLUMES + 4
export const SCENE_PLACES = SCENE_VOLUME_COUNT + 4
export const SCENE_PLACES_NEXT = SCENE_PLACES + 4 // PLACE_ROWS a place, 0 when nothing moves
export const SCENE_PLACES_PREVIOUS = SCENE_PLACES_NEXT + 4
export const SCENE_SUN_COUNT = SCENE_PLACES_PREVIOUS + 4 // the first lights of the list
export const SCENE_LAMP_COUNT = SCENE_SUN_COUNT + 4 // suns and lamps, before the shining triangles
// Places of all vertices, and of things that stand in several places, at the shot's first frame
export const SCENE_REST = SCENE_LAMP_COUNT + 4
export const SCENE_PLACES_REST = SCENE_REST + 4
export const SCENE_SIZE = SCENE_PLACES_REST + 36
export const EXTRA_STRIDE = 12
export const EXTRA_COLOUR = 8 // RGBA, 8 bit, the colour sRGB-coded
