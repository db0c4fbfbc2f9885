import 'vuetify/styles/core'
import { createVuetify, type ThemeDefinition } from 'vuetify'
import {
  mdiCheckboxBlankOutline,
  mdiCheckboxMarked,
  mdiClose,
  mdiMenuDown,
  mdiMinusBox,
  mdiRadioboxBlank,
  mdiRadioboxMarked,
} from '@mdi/js'
import { VSvgIcon } from 'vuetify/components/VIcon'

const lantern: ThemeDefinition = {
  dark: false,
  colors: {
    background: '#e9eef0',
    surface: '#ffffff',
    primary: '#174a59',
    secondary: '#48606b',
    lamp: '#ffb21a',
    'on-lamp': '#2a1c00',
    success: '#14765a',
    warning: '#7a5200',
    error: '#b23a2a',
    info: '#174a59',
    'on-surface': '#12252f',
  },
  variables: { 'border-color': '#48606b', 'border-opacity': 0.35, 'medium-emphasis-opacity': 0.85 },
}

// Set once so that every component arrives in this look.
export const vuetify = createVuetify({
  theme: { defaultTheme: 'lantern', themes: { lantern } },
  icons: {
    defaultSet: 'mdi',
    // Those of the controls that we use; a whole set would be loaded by everybody.
    aliases: {
      clear: mdiClose,
      dropdown: mdiMenuDown,
      checkboxOn: mdiCheckboxMarked,
      checkboxOff: mdiCheckboxBlankOutline,
      checkboxIndeterminate: mdiMinusBox,
      radioOn: mdiRadioboxMarked,
      radioOff: mdiRadioboxBlank,
    },
    sets: { mdi: { component: VSvgIcon } },
  },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'outlined', height: 34, rounded: 'md', class: 'lantern-btn' },
    VTextField: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VTextarea: {
      variant: 'outlined',
      density: 'compact',
      hideDetails: 'auto',
      color: 'primary',
      noResize: false,
    },
    VSelect: {
      variant: 'outlined',
      density: 'compact',
      hideDetails: 'auto',
      color: 'primary',
      menuProps: { maxHeight: 360 },
    },
    VAutocomplete: {
      variant: 'outlined',
      density: 'compact',
      hideDetails: 'auto',
      color: 'primary',
      menuProps: { maxHeight: 360 },
    },
    VCheckboxBtn: { density: 'compact', color: 'primary' },
    VRadio: { density: 'compact', color: 'primary' },
    VDialog: { scrim: '#0b2730', opacity: 0.55, maxWidth: 640 },
    VMenu: { offset: 4 },
    VList: { density: 'compact' },
  },
})
