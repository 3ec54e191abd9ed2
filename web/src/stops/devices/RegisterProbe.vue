<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, ask, type Device, type Schemas, sentence } from '../../api/client'
import { freshId, useProject } from '../../rail/project'

// Any range of registers, live, in every reading that it may have; a click on a
// reading makes the tag.
const props = defineProps<{ device: Device }>()
const project = useProject()
const router = useRouter()
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
    const got = await ask(api.GET('/api/projects/{project}/devices/{id}/probe', { params: { path: { ...project.path, id: props.device.id }, query: { space: space.value, start: Number(start.value) || 0, count: Number(count.value) || 1 } } }))
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
const changed = (r: Schemas['Register']) => r.address in before.value && before.value[r.address] !== r.unsigned
const orders = ['ABCD', 'CDAB', 'BADC', 'DCBA']

async function make(r: Schemas['Register'], type: string, order?: string) {
  const id = freshId('tag')
  const name = r.address.replace(/\W/g, '_').replace(/^(\w)/, (c) => c.toUpperCase()) + '_' + props.device.name
  const refused = await project.edit(t('tags.added'), [{ kind: 'tag', id, path: '', value: { name, type, source: 'device', device: props.device.id, address: r.address, order: order === props.device.order ? undefined : order, access: 'read' } }])
  if (!refused) await router.push({ name: 'tags', params: { project: project.id, id } })
}
</script>

<template>
  <div class="probe">
    <div class="ask">
      <select v-model="space" class="plain" :aria-label="$t('probe.space')"><option v-for="s in ['coil', 'discrete', 'input', 'holding']" :key="s">{{ s }}</option></select>
      <label>{{ $t('probe.from') }} <input v-model.lazy="start" class="plain mono" /></label><label>{{ $t('probe.count') }} <input v-model.lazy="count" class="plain mono" /></label>
      <label><input v-model="live" type="checkbox" /> {{ $t('probe.live') }}</label><span class="quiet">{{ result ? $t('probe.took', { ms: result.tookMs.toFixed(1) }) : '' }}</span><span class="quiet">{{ $t('probe.hint') }}</span>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div v-if="result" class="scroll"><table class="grid">
      <thead><tr><th>{{ $t('tags.address') }}</th><th>{{ $t('probe.reference') }}</th><template v-if="bits"><th>BOOL</th></template><template v-else><th>hex</th><th class="r">UINT</th><th class="r">INT</th><th>{{ $t('probe.text') }}</th><th v-for="o in orders" :key="o" class="r">REAL {{ o }}</th><th v-for="o in orders.slice(0, 2)" :key="'d' + o" class="r">DINT {{ o }}</th></template></tr></thead>
      <tbody><tr v-for="r in result.registers" :key="r.address" :class="{ fresh: changed(r) }">
        <td class="mono">{{ r.address }}</td><td class="mono quiet">{{ r.reference }}</td>
        <td v-if="r.problem" colspan="11" class="err">{{ r.problem }}</td>
        <td v-else-if="bits"><button class="bare mono" @click="make(r, 'BOOL')">{{ r.unsigned ? 1 : 0 }}</button></td>
        <template v-else><td class="mono">{{ r.hex }}</td><td class="r"><button class="bare mono" @click="make(r, 'UINT')">{{ r.unsigned }}</button></td><td class="r"><button class="bare mono" @click="make(r, 'INT')">{{ r.signed }}</button></td><td class="mono quiet">{{ r.text }}</td>
          <td v-for="o in orders" :key="o" class="r"><button class="bare mono" @click="make(r, 'REAL', o)">{{ r.real[o] }}</button></td><td v-for="o in orders.slice(0, 2)" :key="'d' + o" class="r"><button class="bare mono" @click="make(r, 'DINT', o)">{{ r.double[o] }}</button></td></template>
      </tr></tbody>
    </table></div>
  </div>
</template>

<style scoped>
.probe { display: flex; flex-direction: column; gap: 10px; padding: 12px 16px; min-height: 0; flex: 1; }
.ask { display: flex; gap: 12px; align-items: center; flex-wrap: wrap; }
.ask .plain { width: 92px; }
.scroll { overflow: auto; flex: 1; }
.r { text-align: right !important; }
.fresh td { background: var(--c-tint); }
td .bare:hover { text-decoration: underline; color: var(--c-spruce); }
</style>
