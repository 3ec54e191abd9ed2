<script setup lang="ts">
import {
  mdiFlaskOutline,
  mdiAccountCogOutline,
  mdiLogout,
  mdiMonitor,
  mdiThemeLightDark,
  mdiTranslate,
} from '@mdi/js'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from '../api/session'
import { useSettings } from '../kit/settings'
import { useProject } from './project'
import AccountBox from './AccountBox.vue'
import TryStart from './TryStart.vue'
import { stops } from './stops'
import InitialsMark from '../kit/InitialsMark.vue'

const project = useProject()
const session = useSession()
const settings = useSettings()
const route = useRoute()
const router = useRouter()
const { t } = useI18n({ useScope: 'global' })
const LENGTH = 2 * Math.PI * 17

const rows = computed(() =>
  stops.map((s) => {
    const state = project.overview?.stops.find((x) => x.stop === s.name)
    return {
      ...s,
      share: state?.share ?? 0,
      errors: state?.errors ?? 0,
      warnings: state?.warnings ?? 0,
      clean: state?.clean ?? 0,
      things: state?.things ?? 0,
      ready: (state?.share ?? 0) === 1,
    }
  }),
)

/** How a stop stands; History with what the disk will have to hold. */
function said({ name, clean, things }: { name: string; clean: number; things: number }): string {
  const disk = name === 'history' ? project.overview?.disk : undefined
  const parts = [t('rail.sum', { clean, things })]
  if (disk !== undefined) parts.push(t('rail.disk', { percent: disk < 0.01 ? '< 1' : Math.ceil(disk * 100) }))
  return parts.join('; ')
}

const trying = ref(false)
const account = ref(false)

async function leave() {
  await session.signOut()
  project.leave()
  await router.push('/')
}
function otherLanguage() {
  settings.setLanguage(settings.language === 'en' ? 'de' : 'en')
  void project.refresh()
}
</script>

<template>
  <nav class="rail" :aria-label="$t('rail.name')">
    <router-link to="/" class="logo" :aria-label="$t('rail.start')">
      <svg viewBox="0 0 36 36" width="36" height="36" aria-hidden="true">
        <path d="M11 3v30M25 3v30" class="metal" />
        <path d="M4 9h28M4 18h28M4 27h28" class="tie" />
      </svg>
    </router-link>
    <ol>
      <li v-for="(s, i) in rows" :key="s.name">
        <router-link
          :to="{ name: s.name, params: { project: project.id } }"
          class="stop-link"
          :class="{ on: route.name === s.name }"
          :title="said(s)">
          <svg class="ring" viewBox="0 0 40 40" width="40" height="40" aria-hidden="true">
            <circle cx="20" cy="20" r="17" class="ground" />
            <circle
              cx="20"
              cy="20"
              r="17"
              class="arc"
              :stroke-dasharray="`${LENGTH * s.share} ${LENGTH}`"
              transform="rotate(-90 20 20)" />
            <g transform="translate(9.5 9.5) scale(.875)"><path :d="s.icon" class="glyph" /></g>
          </svg>
          <span v-if="s.errors + s.warnings" class="count" :class="s.errors ? 'errors' : 'warnings'">
            {{ s.errors || s.warnings }}
          </span>
          <span class="label">{{ $t($word('stop', s.name)) }}</span>
          <span class="visually-hidden">{{ said(s) }}</span>
        </router-link>
        <span v-if="i < rows.length - 1" class="link" :class="{ broken: !s.ready }" />
      </li>
    </ol>
    <div class="foot">
      <router-link
        v-if="session.may(project.id, 'view')"
        class="tool"
        :to="{ name: 'desk', params: { project: project.id } }"
        :title="$t('rail.desk')"
        :aria-label="$t('rail.desk')">
        <svg viewBox="0 0 24 24" width="24" height="24"><path :d="mdiMonitor" /></svg>
      </router-link>
      <v-menu v-model="trying" location="end" :close-on-content-click="false">
        <template #activator="{ props: p }">
          <button v-bind="p" class="tool bare" :title="$t('try.title')" :aria-label="$t('try.title')">
            <svg viewBox="0 0 24 24" width="24" height="24"><path :d="mdiFlaskOutline" /></svg>
          </button>
        </template>
        <TryStart @done="trying = false" />
      </v-menu>
      <v-menu location="end">
        <template #activator="{ props: p }">
          <button v-bind="p" class="person" :aria-label="session.me?.person?.name">
            <InitialsMark :name="session.me?.person?.name" />
          </button>
        </template>
        <v-list density="compact" min-width="220">
          <v-list-item
            :title="session.me?.person?.name"
            :subtitle="
              session.me?.panel ? $t('rail.panel', { name: session.me.panel }) : $t('rail.noPanel')
            " />
          <v-divider />
          <v-list-item
            :prepend-icon="mdiThemeLightDark"
            :title="settings.dark ? $t('rail.light') : $t('rail.dark')"
            @click="settings.toggleTheme()" />
          <v-list-item
            :prepend-icon="mdiTranslate"
            :title="settings.language === 'en' ? 'Deutsch' : 'English'"
            @click="otherLanguage" />
          <v-list-item
            :prepend-icon="mdiAccountCogOutline"
            :title="$t('account.title')"
            @click="account = true" />
          <v-list-item :prepend-icon="mdiLogout" :title="$t('rail.signOut')" @click="leave" />
        </v-list>
      </v-menu>
      <AccountBox v-if="account" @close="account = false" />
    </div>
  </nav>
</template>

<style scoped>
.rail {
  width: 88px;
  background: var(--c-rail);
  color: var(--c-rail-text);
  display: flex;
  flex-direction: column;
  align-items: center;
  padding: 8px 0 12px;
  height: 100%;
}
.logo {
  display: block;
  margin-bottom: 8px;
}
.metal {
  stroke: var(--c-rail-text);
  stroke-width: 2.4;
  fill: none;
}
.tie {
  stroke: var(--c-rail-accent);
  stroke-width: 3;
  fill: none;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  overflow-y: auto;
  flex: 1;
  width: 100%;
}
/* Ten stops fit into 800 px: the line between two gives way first. */
li {
  display: flex;
  flex-direction: column;
  align-items: center;
  flex: 0 1 80px;
  min-height: 0;
}
li:last-child {
  flex: none;
}
.stop-link {
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: center;
  color: var(--c-rail-quiet);
  font-size: 12px;
  width: 84px;
  padding: 1px 0;
  flex: none;
}
.stop-link:hover {
  text-decoration: none;
  color: var(--c-rail-text);
}
.ring circle {
  fill: none;
  stroke-width: 3;
}
.ring .ground {
  stroke: color-mix(in srgb, var(--c-rail-text) 18%, transparent);
}
.ring .arc {
  stroke: var(--c-rail-accent);
}
.glyph {
  fill: currentColor;
}
.on {
  color: #fff;
  font-weight: 650;
}
.on .ring .ground {
  fill: #1e6b5a;
}
.label {
  margin-top: 1px;
}
.count {
  position: absolute;
  top: -1px;
  right: 15px;
  min-width: 18px;
  height: 18px;
  border-radius: 9px;
  font-size: 11px;
  font-weight: 700;
  line-height: 18px;
  text-align: center;
  color: #fff;
  padding: 0 4px;
  box-sizing: border-box;
}
.count.errors {
  background: #a61b45;
}
.count.warnings {
  background: #8a6a0c;
}
.link {
  width: 2px;
  flex: 1 1 2px;
  min-height: 2px;
  max-height: 16px;
  background: var(--c-rail-accent);
  margin: 1px 0;
}
.link.broken {
  background: repeating-linear-gradient(var(--c-rail-quiet) 0 3px, transparent 3px 7px);
  opacity: 0.6;
}
.foot {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 12px;
  padding-top: 12px;
  border-top: 1px solid color-mix(in srgb, var(--c-rail-text) 20%, transparent);
  width: 60px;
}
.tool {
  color: var(--c-rail-text);
}
.tool svg path {
  fill: currentColor;
}
.person {
  width: 32px;
  height: 32px;
  border-radius: 50%;
  border: 0;
  background: color-mix(in srgb, var(--c-rail-text) 22%, transparent);
  color: inherit;
  font-weight: 700;
  font-size: 12px;
  cursor: pointer;
}
:focus-visible {
  outline-color: #fff;
}
@media (max-height: 860px) {
  .ring {
    width: 34px;
    height: 34px;
  }
  .foot {
    gap: 8px;
    padding-top: 8px;
  }
}
</style>
