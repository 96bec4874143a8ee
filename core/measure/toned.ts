// What is cut out of one picture toned to a place in another: its blacks as deep as those there, its whites no brighter, its
// colours no stronger, and all of it in the colour of the light there. What it is of stays: a dark coat is dark anywhere.
import { likened, type Likeness } from './likeness'

/** The mean colour of a place is that of its light by half; the rest is of the things there (common practice: grey world). */
const OF_LIGHT = 0.5
/** Colours are drawn together to no less than this. */
const LEAST_COLOUR = 0.5

/** The values of the treatment “match” that tone it so. */
export function toned(own: Likeness, place: Likeness): ReturnType<typeof likened> {
  const round = (value: number): number => Number(value.toFixed(5))
  const ends = (of: Likeness): [number, number] => [Math.max(0, of.tones[0]!), Math.max(0, of.tones.at(-1)!)]
  const [black, white] = ends(own)
  const [blackThere, whiteThere] = ends(place)
  // Whites come down to those there; what has none near them keeps as far from its blacks as it was
  const to = white > whiteThere ? whiteThere : Math.min(whiteThere, Math.max(white, blackThere + 0.004))
  const apart = white - black > 0.004
  const colourful = (of: Likeness): number => Math.hypot(of.spreadA, of.spreadB, of.a, of.b)
  const less = round(Math.min(1, Math.max(LEAST_COLOUR, colourful(place) / Math.max(1e-4, colourful(own)))))
  return {
    tones: [
      [round(black), round(apart ? blackThere : black)],
      [round(apart ? white : black + 1), round(apart ? to : black + 1)],
    ],
    from_a: round(own.a),
    from_b: round(own.b),
    to_a: round(own.a * less + place.a * OF_LIGHT),
    to_b: round(own.b * less + place.b * OF_LIGHT),
    spread_a: less,
    spread_b: less,
  }
}
