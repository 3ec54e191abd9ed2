<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Device, type Schemas } from '../api/client'
import { byLevels, type Link } from '../kit/levels'
import LevelLines from '../kit/LevelLines.vue'
import { useProject } from '../rail/project'
import { word } from '../i18n/word'

// The plant as it is wired, drawn by itself: the panels that are enrolled, this
// server, the endpoints it dials and the devices behind them, each with the
// state of its link.
type State = 'up' | 'down' | 'connecting' | 'idle'
interface Box {
  id: string
  title: string
  note: string
  state: State
  says: string
  to?: { name: string; params: Record<string, string> }
}
const WIDE = 190
const HIGH = 62
const EVERY_MS = 5000
const project = useProject()
const { t } = useI18n()
const panels = shallowRef<Schemas['PanelRow'][]>([])
async function load() {
  const asked = api.GET('/api/projects/{project}/panels', { params: { path: project.path } })
  panels.value = await ask(asked).catch(() => [])
}
onMounted(load)
useIntervalFn(load, EVERY_MS)

const stateOf = (device: string) => (project.links.find((l) => l.device === device)?.state ?? 'idle') as State
/** A connection stands where one of those that use it has it. */
function best(states: State[]): State {
  return (['up', 'connecting', 'down', 'idle'] as const).find((s) => states.includes(s)) ?? 'idle'
}

const plan = computed(() => {
  const boxes: Box[] = []
  const links: (Link & { state: State })[] = []
  const server = {
    id: 'server',
    title: t('sitePicture.server'),
    note: window.location.host,
    state: 'up' as const,
    says: t('link.up'),
  }
  boxes.push(server)
  for (const p of panels.value) {
    const state = p.open ? 'up' : 'idle'
    const to = { name: 'people', params: { project: project.id } }
    const says = p.open ? p.person || t('desk.nobody') : t('sitePicture.away')
    boxes.push({ id: 'panel ' + p.id, title: p.name, note: t('sitePicture.panel'), state, says, to })
    links.push({ from: 'panel ' + p.id, to: 'server', state })
  }
  const byEndpoint = new Map<string, Device[]>()
  for (const d of project.devices) {
    const at = d.protocol === 'standin' ? '' : `${d.host}:${d.port}`
    byEndpoint.set(at, [...(byEndpoint.get(at) ?? []), d])
  }
  for (const [at, devices] of byEndpoint) {
    const states = devices.map((d) => stateOf(d.id))
    let behind = 'server'
    if (at) {
      behind = 'at ' + at
      const state = best(states)
      const protocols = [...new Set(devices.map((d) => t(word('protocol', d.protocol))))].join(', ')
      boxes.push({ id: behind, title: at, note: protocols, state, says: t(word('link', state)) })
      links.push({ from: 'server', to: behind, state })
    }
    for (const [i, d] of devices.entries()) {
      const state = states[i]!
      const note =
        d.protocol === 'modbus-tcp' ? t('sitePicture.unit', { n: d.unit }) : t(word('protocol', d.protocol))
      const to = { name: 'devices', params: { project: project.id, id: d.id } }
      const says = project.links.find((l) => l.device === d.id)?.problem || t(word('link', state))
      boxes.push({ id: d.id, title: d.name, note, state, says, to })
      links.push({ from: behind, to: d.id, state })
    }
  }
  // While the server does not answer nothing is known of what lies behind it.
  for (const box of boxes) {
    box.says = project.reached ? box.says : t('sitePicture.unknown')
    box.state = project.reached ? box.state : 'idle'
  }
  const roots = [...boxes.filter((b) => b.id.startsWith('panel ')).map((b) => b.id), 'server']
  const nodes = boxes.map((b) => ({ id: b.id, w: WIDE, h: HIGH }))
  const laid = byLevels(nodes, links, roots, { level: 48, box: 12 })
  const lines = laid.lines.map((l) => {
    const state = project.reached ? l.links[0]!.state : 'idle'
    return {
      ...l,
      ahead: false,
      back: false,
      title: t(word('link', state)),
      look: state === 'connecting' ? 'down' : state,
    }
  })
  return { boxes, lines, laid }
})
function place(id: string) {
  const at = plan.value.laid.spots.get(id)
  return at && { left: at.x + 'px', top: at.y + 'px', width: WIDE + 'px', height: HIGH + 'px' }
}
</script>

<template>
  <div class="picture" role="group" :aria-label="$t('sitePicture.title')">
    <div class="plan" :style="{ width: plan.laid.width + 'px', height: plan.laid.height + 'px' }">
      <LevelLines :lines="plan.lines" :width="plan.laid.width" :height="plan.laid.height" />
      <component
        :is="b.to ? 'router-link' : 'div'"
        v-for="b in plan.boxes"
        :key="b.id"
        :to="b.to"
        class="box"
        :class="b.state"
        :style="place(b.id)"
        :title="b.title + '\n' + b.says">
        <strong>{{ b.title }}</strong>
        <span class="quiet">{{ b.note }}</span>
        <span class="says">{{ b.says }}</span>
      </component>
    </div>
  </div>
</template>

<style scoped>
.picture {
  overflow: auto;
}
.plan {
  position: relative;
}
.box {
  position: absolute;
  box-sizing: border-box;
  padding: 4px 10px;
  background: var(--c-sheet);
  border: 1.5px solid var(--c-ink);
  border-left-width: 6px;
  border-radius: 4px;
  color: inherit;
  text-decoration: none;
  font-size: 12px;
  line-height: 17px;
}
.box > * {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.box strong {
  font-size: 13px;
}
.box.up {
  border-left-color: var(--c-spruce);
}
.box.down,
.box.connecting {
  border-color: var(--c-error);
  border-style: dashed;
}
.box.down .says,
.box.connecting .says {
  color: var(--c-error);
}
.box.idle {
  border-style: dotted;
}
a.box:hover,
a.box:focus-visible {
  outline: 2px solid var(--c-spruce);
}
</style>
