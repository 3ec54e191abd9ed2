<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Device, type Schemas, sentence } from '../../api/client'
import { freshId, useProject } from '../../rail/project'

// Any range of registers, live, in every reading that it may have; those that
// are picked become tags.
const props = defineProps<{ device: Device }>()
const project = useProject()
const { t } = useI18n()
const space = ref<'coil' | 'discrete' | 'input' | 'holding'>('holding')
const start = ref('0')
const count = ref('16')
const live = ref(true)
const result = shallowRef<Schemas['ProbeResult']>()
const before = shallowRef<Record<string, number>>({})
const problem = ref('')
let busy = false

async function read() {
  if (busy) return
  busy = true
  try {
    const got = await ask(
      api.GET('/api/projects/{project}/devices/{id}/probe', {
        params: {
          path: { ...project.path, id: props.device.id },
          query: { space: space.value, start: Number(start.value) || 0, count: Number(count.value) || 1 },
        },
      }),
    )
    before.value = Object.fromEntries((result.value?.registers ?? []).map((r) => [r.address, r.unsigned]))
    result.value = got
    problem.value = ''
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy = false
  }
}
watch([space, start, count], read, { immediate: true })
useIntervalFn(() => live.value && read(), 500)
const bits = computed(() => space.value === 'coil' || space.value === 'discrete')
const changed = (r: Schemas['Register']) =>
  r.address in before.value && before.value[r.address] !== r.unsigned
const orders = ['ABCD', 'CDAB', 'BADC', 'DCBA']

// Readings are picked where they stand, by Shift all of the kind in between;
// what is picked becomes tags in one edit, without leaving the probe.
interface Pick {
  address: string
  at: number
  type: string
  order?: string
}
const picked = shallowRef(new Map<string, Pick>())
const folder = ref('')
const made = ref(0)
let last: Pick | undefined
const keyOf = (p: Pick) => `${p.address} ${p.type} ${p.order ?? ''}`
const isPicked = (r: Schemas['Register'], type: string, order?: string) =>
  picked.value.has(keyOf({ address: r.address, at: 0, type, order }))
const wide = (type: string) => (type === 'REAL' || type === 'DINT' ? 2 : 1)
function pick(e: MouseEvent, at: number, type: string, order?: string) {
  const rows = result.value?.registers ?? []
  const next = new Map(picked.value)
  const one = (i: number): Pick => ({ address: rows[i]!.address, at: i, type, order })
  if (e.shiftKey && last && last.type === type && last.order === order) {
    const step = at < last.at ? -wide(type) : wide(type)
    for (let i = last.at; step > 0 ? i <= at : i >= at; i += step)
      if (rows[i] && !rows[i]!.problem) next.set(keyOf(one(i)), one(i))
  } else {
    const p = one(at)
    if (!next.delete(keyOf(p))) next.set(keyOf(p), p)
    last = p
  }
  picked.value = next
  made.value = 0
}
watch(space, () => (picked.value = new Map()))
async function make() {
  const list = [...picked.value.values()]
  const under = folder.value.trim()
  const ops = list.map((p) => {
    const name =
      p.address.replace(/\W/g, '_').replace(/^(\w)/, (c) => c.toUpperCase()) + '_' + props.device.name
    const value = {
      name: under ? `${under}.${name}` : name,
      type: p.type,
      source: 'device',
      device: props.device.id,
      address: p.address,
      order: p.order === props.device.order ? undefined : p.order,
      access: 'read',
    }
    return { kind: 'tag', id: freshId('tag'), path: '', value }
  })
  const refused = await project.edit(t('probe.made', { n: ops.length }), ops)
  problem.value = refused?.message ?? ''
  if (refused) return
  made.value = ops.length
  picked.value = new Map()
}
</script>

<template>
  <div class="probe">
    <div class="ask">
      <select v-model="space" class="plain" :aria-label="$t('probe.space')">
        <option v-for="s in ['coil', 'discrete', 'input', 'holding']" :key="s">{{ s }}</option>
      </select>
      <label>
        {{ $t('probe.from') }}
        <input v-model.lazy="start" class="plain mono" />
      </label>
      <label>
        {{ $t('probe.count') }}
        <input v-model.lazy="count" class="plain mono" />
      </label>
      <label>
        <input v-model="live" type="checkbox" />
        {{ $t('probe.live') }}
      </label>
      <span class="quiet">{{ result ? $t('probe.took', { ms: result.tookMs.toFixed(1) }) : '' }}</span>
      <span class="quiet">{{ $t('probe.hint') }}</span>
    </div>
    <form v-if="picked.size || made" class="ask" @submit.prevent="make">
      <template v-if="picked.size">
        <label>
          {{ $t('probe.folder') }}
          <input v-model="folder" class="plain mono wide" />
        </label>
        <v-btn type="submit" color="primary" size="small">{{ $t('probe.make', { n: picked.size }) }}</v-btn>
        <button type="button" class="bare" @click="picked = new Map()">{{ $t('common.cancel') }}</button>
      </template>
      <span v-else role="status">
        {{ $t('probe.made', { n: made }) }}
        <router-link :to="{ name: 'tags', params: { project: project.id } }">
          {{ $t('stop.tags') }}
        </router-link>
      </span>
    </form>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div v-if="result" class="scroll">
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('tags.address') }}</th>
            <th>{{ $t('probe.reference') }}</th>
            <template v-if="bits"><th>BOOL</th></template>
            <template v-else>
              <th>hex</th>
              <th class="r">UINT</th>
              <th class="r">INT</th>
              <th>{{ $t('probe.text') }}</th>
              <th v-for="o in orders" :key="o" class="r">REAL {{ o }}</th>
              <th v-for="o in orders.slice(0, 2)" :key="'d' + o" class="r">DINT {{ o }}</th>
            </template>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in result.registers" :key="r.address" :class="{ fresh: changed(r) }">
            <td class="mono">{{ r.address }}</td>
            <td class="mono quiet">{{ r.reference }}</td>
            <td v-if="r.problem" colspan="11" class="err">{{ r.problem }}</td>
            <td v-else-if="bits">
              <button
                class="bare mono"
                :class="{ on: isPicked(r, 'BOOL') }"
                :aria-pressed="isPicked(r, 'BOOL')"
                @click="pick($event, i, 'BOOL')">
                {{ r.unsigned ? 1 : 0 }}
              </button>
            </td>
            <template v-else>
              <td class="mono">{{ r.hex }}</td>
              <td class="r">
                <button
                  class="bare mono"
                  :class="{ on: isPicked(r, 'UINT') }"
                  :aria-pressed="isPicked(r, 'UINT')"
                  @click="pick($event, i, 'UINT')">
                  {{ r.unsigned }}
                </button>
              </td>
              <td class="r">
                <button
                  class="bare mono"
                  :class="{ on: isPicked(r, 'INT') }"
                  :aria-pressed="isPicked(r, 'INT')"
                  @click="pick($event, i, 'INT')">
                  {{ r.signed }}
                </button>
              </td>
              <td class="mono quiet">{{ r.text }}</td>
              <td v-for="o in orders" :key="o" class="r">
                <button
                  class="bare mono"
                  :class="{ on: isPicked(r, 'REAL', o) }"
                  :aria-pressed="isPicked(r, 'REAL', o)"
                  @click="pick($event, i, 'REAL', o)">
                  {{ r.real[o] }}
                </button>
              </td>
              <td v-for="o in orders.slice(0, 2)" :key="'d' + o" class="r">
                <button
                  class="bare mono"
                  :class="{ on: isPicked(r, 'DINT', o) }"
                  :aria-pressed="isPicked(r, 'DINT', o)"
                  @click="pick($event, i, 'DINT', o)">
                  {{ r.double[o] }}
                </button>
              </td>
            </template>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.probe {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 12px 16px;
  min-height: 0;
  flex: 1;
}
.ask {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
.ask .plain {
  width: 92px;
}
.scroll {
  overflow: auto;
  flex: 1;
}
.r {
  text-align: right !important;
}
.fresh td {
  background: var(--c-tint);
}
td .on {
  background: var(--c-spruce);
  color: var(--c-on-spruce);
  border-radius: 3px;
  padding: 0 4px;
}
.ask .wide {
  width: 180px;
}
td .bare:hover {
  text-decoration: underline;
}
td .bare:not(.on):hover {
  color: var(--c-spruce);
}
</style>
