import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

export default defineNuxtPlugin(app => {
  app.vueApp.use(
    createVuetify({
      icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
      theme: {
        defaultTheme: 'paper',
        themes: {
          paper: {
            dark: false,
            colors: {
              background: '#e7e7e5',
              surface: '#f4f4f2',
              primary: '#a8381f',
              secondary: '#55595b',
              error: '#9a2f16',
            },
          },
          dim: {
            dark: true,
            colors: {
              background: '#2b2c2d',
              surface: '#343536',
              primary: '#e08465',
              secondary: '#a9acad',
              error: '#ef9273',
            },
          },
        },
      },
      defaults: {
        VBtn: { variant: 'text', density: 'comfortable', rounded: 'lg', ripple: false },
        VTextField: { density: 'compact', variant: 'outlined', hideDetails: 'auto' },
        VSelect: {
          density: 'compact',
          variant: 'outlined',
          hideDetails: true,
          menuProps: { maxHeight: 560 },
          listProps: { density: 'compact' },
        },
        VCheckbox: { density: 'compact', hideDetails: true },
        VTooltip: { openDelay: 400 },
      },
    }),
  )
})
