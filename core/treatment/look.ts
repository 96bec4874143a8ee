import { treatment } from './treatment'

export const look = treatment({
  id: 'look',
  label: 'Look',
  help: 'Several lines kept together under a name, laid as one: at a strength, and where its matte says.',
  group: 'Colour',
  sentence: '',
  values: {},
  lined: true,
  plan: ({ colour, lines }) => lines?.() ?? colour,
})
