import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import '@fontsource-variable/atkinson-hyperlegible-next/wght-italic.css'
import './styles.css'
import { createApp, watch } from 'vue'
import { createPinia } from 'pinia'
import App from './App.vue'
import { i18n, speak, texts } from './i18n'
import { useSettings } from './kit/settings'
import { live } from './live/live'
import { router } from './router'
import { vuetify } from './vuetify'

const app = createApp(App).use(createPinia()).use(texts).use(vuetify).use(router)
watch(i18n.global.locale, (language) => live.speak(language))
void speak(useSettings().language).then(() => app.mount('#app'))
