import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import { speak, type Language } from '../i18n'

/** What a person chose for this browser: theme, language, sizes of panes. */
export const useSettings = defineStore('settings', () => {
  const theme = useLocalStorage<'system' | 'light' | 'dark'>('rr-theme', 'system')
  const system = usePreferredDark()
  const dark = computed(() => (theme.value === 'system' ? system.value : theme.value === 'dark'))
  const language = useLocalStorage<Language>('rr-language', 'en')
  const inspectorWidth = useLocalStorage('rr-inspector', 320)
  const editorWidth = useLocalStorage('rr-editor-left', 236)
  /** Which panes of the screens' editor are folded away. */
  const folded = useLocalStorage<{ left?: boolean; right?: boolean }>('rr-editor-folded', {})
  /** Sections of the stock that are folded. */
  const stockFolded = useLocalStorage<string[]>('rr-stock-folded', [])
  /** Whether the editor's tags stand by folder. */
  const tagTree = useLocalStorage('rr-editor-tree', true)
  const treeWidth = useLocalStorage('rr-tree', 190)
  const watchOpen = useLocalStorage('rr-watch-open', false)

  function toggleTheme() {
    theme.value = dark.value ? 'light' : 'dark'
  }
  function setLanguage(l: Language) {
    language.value = l
    void speak(l)
  }
  return {
    dark,
    language,
    inspectorWidth,
    editorWidth,
    folded,
    stockFolded,
    tagTree,
    treeWidth,
    watchOpen,
    toggleTheme,
    setLanguage,
  }
})
