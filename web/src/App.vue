<script setup lang="ts">
import { watchEffect } from 'vue'
import { useTheme } from 'vuetify'
import AskedHere from './desk/AskedHere.vue'
import RestWatch from './rail/RestWatch.vue'
import { useSettings } from './kit/settings'
import { applyColours, dark, light } from './theme'

const settings = useSettings()
const theme = useTheme()
watchEffect(() => {
  const isDark = settings.dark
  theme.change(isDark ? 'dark' : 'light')
  applyColours(isDark ? dark : light)
  document.documentElement.classList.toggle('dark', isDark)
})
</script>

<template>
  <v-app>
    <router-view />
    <AskedHere />
    <RestWatch />
  </v-app>
</template>
