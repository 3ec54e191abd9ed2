<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { mdiAccountSwitchOutline } from '@mdi/js'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { LinkStatus } from '../api/client'
import { useSession } from '../api/session'
import { useSettings } from '../kit/settings'
import { clock, moment } from '../kit/moment'
import { live } from '../live/live'
import AccountBox from '../rail/AccountBox.vue'
import InitialsMark from '../kit/InitialsMark.vue'

const props = defineProps<{
  title: string
  links: LinkStatus[]
  message: string
  bad: boolean
  engineer: boolean
  operates: boolean
  project: string
  languages: string[]
  language: string
}>()
const emit = defineEmits<{
  signOut: []
  dismiss: []
  speak: [language: string]
  change: [name: string]
  handOver: []
}>()
const session = useSession()
const { t } = useI18n({ useScope: 'global' })
const settings = useSettings()
const account = ref(false)
const now = ref(new Date())
useIntervalFn(() => (now.value = new Date(live.serverNow())), 500)
const down = computed(() => props.links.filter((l) => l.state === 'down' || l.state === 'connecting'))
/** At a panel, who else works here: one tap on the name, then their PIN. */
const others = computed(() =>
  (session.me?.tiles ?? []).filter((p) => p.fullName !== session.me?.person?.name),
)
const nobody = computed(() => !!session.me?.person?.nobody)
const called = computed(() => (nobody.value ? t('desk.nobody') : session.me?.person?.name))
const panel = computed(() => session.me?.panel || t('rail.noPanel'))
</script>

<template>
  <header class="banner">
    <div v-if="message" class="message" :class="{ bad }" role="alert">
      <span>{{ message }}</span>
      <button @click="emit('dismiss')">{{ $t('notice.close') }}</button>
    </div>
    <div v-else class="area">
      <strong class="title">{{ title }}</strong>
      <span v-if="down.length" class="lost">
        {{ $t('desk.down', { name: down.map((d) => d.name).join(', ') }) }}
      </span>
    </div>
    <slot />
    <div
      class="links"
      role="img"
      :title="links.map((l) => `${l.name}: ${$t($word('link', l.state))}`).join('\n')"
      :aria-label="$t('head.links')">
      <span v-for="l in links" :key="l.device" class="tick" :class="l.state" />
    </div>
    <div class="clock mono">
      <strong>{{ moment(now, clock) }}</strong>
      <span>{{ moment(now, { weekday: 'short', day: 'numeric', month: 'short' }) }}</span>
    </div>
    <v-menu location="bottom end">
      <template #activator="{ props: p }">
        <button v-bind="p" class="person" :title="called">
          <InitialsMark class="disc" :name="nobody ? undefined : called" />
          <span class="who">
            <strong>{{ called }}</strong>
            <span>{{ panel }}</span>
          </span>
        </button>
      </template>
      <v-list min-width="240">
        <v-list-item
          v-for="p in others"
          :key="p.name"
          :title="p.fullName"
          :prepend-icon="mdiAccountSwitchOutline"
          min-height="48"
          @click="emit('change', p.name)" />
        <v-divider v-if="others.length" />
        <v-list-item
          v-if="engineer"
          :title="$t('start.workshop')"
          :to="{ name: 'tags', params: { project } }"
          min-height="48" />
        <v-list-item
          :title="settings.dark ? $t('rail.light') : $t('rail.dark')"
          min-height="48"
          @click="settings.toggleTheme()" />
        <v-list-item
          v-for="l in languages.length > 1 ? languages : []"
          :key="l"
          :title="$t('lang.' + l)"
          :active="l === language"
          min-height="48"
          @click="emit('speak', l)" />
        <v-list-item v-if="nobody" :title="$t('sign.title')" min-height="48" @click="emit('change', '')" />
        <template v-else>
          <v-list-item
            v-if="operates"
            :title="$t('handover.leave')"
            min-height="48"
            @click="emit('handOver')" />
          <v-list-item :title="$t('account.title')" min-height="48" @click="account = true" />
          <v-list-item :title="$t('rail.signOut')" min-height="48" @click="emit('signOut')" />
        </template>
      </v-list>
    </v-menu>
    <AccountBox v-if="account" @close="account = false" />
  </header>
</template>

<style scoped>
.banner {
  height: 56px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 0 16px;
  background: var(--c-paper);
  border-bottom: 1px solid var(--c-line);
  font-size: 16px;
}
.area {
  flex: 0 1 auto;
  max-width: 24%;
}
.title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.message {
  flex: 1;
}
.area,
.message {
  min-width: 0;
  display: flex;
  gap: 16px;
  align-items: center;
}
.area strong {
  font-size: 18px;
}
.lost {
  color: var(--c-error);
  font-size: 14px;
  line-height: 1.2;
  max-height: 2.4em;
  overflow: hidden;
}
.area:has(.lost) {
  max-width: 180px;
}
.area:has(.lost) .title {
  display: none;
}
/* A long refusal hangs over the screen's edge rather than being cut. */
.message {
  position: relative;
  z-index: 15;
  align-self: flex-start;
  margin-top: 6px;
  background: var(--c-rail);
  color: var(--c-rail-text);
  padding: 4px 6px 4px 14px;
  border-radius: 4px;
  min-height: 44px;
  box-sizing: border-box;
}
.message.bad {
  border-left: 5px solid var(--c-critical);
}
.message span {
  flex: 1;
  font-size: 15px;
  line-height: 1.25;
}
.message button {
  min-height: 44px;
  padding: 0 14px;
  background: none;
  border: 0;
  color: var(--c-rail-accent);
  font-weight: 650;
  cursor: pointer;
}
.links {
  display: flex;
  gap: 4px;
}
.tick {
  width: 9px;
  height: 24px;
  border-radius: 2px;
  background: var(--c-ink);
  box-sizing: border-box;
  opacity: 0.85;
}
.tick.down,
.tick.connecting {
  background: none;
  border: 2px solid var(--c-critical);
  opacity: 1;
}
.tick.idle {
  background: none;
  border: 2px dotted var(--c-quiet);
}
.links,
.clock,
.person {
  flex: none;
}
.clock {
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  line-height: 1.15;
}
.clock strong {
  font-size: 18px;
}
.clock span {
  font-size: 13px;
  color: var(--c-quiet);
  font-family: var(--sans);
}
.person {
  display: flex;
  align-items: center;
  gap: 10px;
  background: none;
  border: 0;
  cursor: pointer;
  min-height: 48px;
  text-align: left;
}
.disc {
  width: 40px;
  height: 40px;
  border-radius: 50%;
  background: var(--c-rail);
  color: var(--c-rail-text);
  display: grid;
  place-items: center;
  font-weight: 700;
  font-size: 14px;
}
.who {
  display: flex;
  flex-direction: column;
  line-height: 1.2;
}
.who span {
  font-size: 13px;
  color: var(--c-quiet);
}
/* What is left out first on a small panel, and at 200 %, is what can be seen elsewhere. */
@media (max-width: 1040px) {
  .who {
    display: none;
  }
  .banner {
    gap: 10px;
    padding: 0 8px;
  }
}
@media (max-width: 860px) {
  .clock span,
  .links {
    display: none;
  }
  .area:not(:has(.lost)) {
    display: none;
  }
  .area .title {
    display: none;
  }
  .area {
    max-width: 30%;
  }
}
</style>
