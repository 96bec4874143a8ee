// Ink on paper: what treatments that draw share.
import { colourValues, value } from '../declare/field'
import { Colour, type Term } from '../formula/term'

export const INK_VALUES = {
  ink: colourValues('ink ', { help: 'Of what is drawn, linear Rec.709.', first: [0.012, 0.011, 0.015] }),
  fill: value(0, 1, {
    label: 'paper',
    help: 'How much of the picture gives way to the paper.',
    step: 0.004,
    neutral: 0,
    first: 0,
  }),
  paper: colourValues('paper ', { help: 'Of the paper, linear Rec.709.', first: [0.75, 0.72, 0.66] }),
}
/** From nothing to all, softly at both ends: x² (3 - 2x), of what is held to 0..1. */
export const softened = (share: Term): Term => share.times(share).times(share.terms.constant(3).minus(share.times(2)))

/** So much ink on a picture, of which so much gave way to the paper. */
export const drawn = (
  colour: Colour,
  alpha: Term,
  share: Term,
  { ink, paper, fill }: { ink: Colour; paper: Colour; fill: Term },
): Colour =>
  colour.map((channel, which) => {
    const ground = channel.plus(paper[which].times(alpha).minus(channel).times(fill))
    return ground.plus(ink[which].times(alpha).minus(ground).times(share))
  })
