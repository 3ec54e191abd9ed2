import 'vuetify/styles'
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { dark, light, type Colours } from './theme'

function theme(colours: Colours, isDark: boolean) {
  return {
    dark: isDark,
    colors: {
      background: colours.paper,
      surface: colours.sheet,
      primary: colours.spruce,
      'on-primary': colours.onSpruce,
      'on-surface': colours.ink,
      'on-background': colours.ink,
      error: colours.error,
      warning: colours.warning,
    },
  }
}

export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: { defaultTheme: 'light', themes: { light: theme(light, false), dark: theme(dark, true) } },
  defaults: {
    VBtn: { variant: 'flat', density: 'comfortable', rounded: 'sm' },
    VTooltip: { openDelay: 400 },
    VMenu: { transition: false },
    VDialog: { transition: false },
  },
})
