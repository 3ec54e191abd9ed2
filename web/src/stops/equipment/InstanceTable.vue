<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import PathText from '../../kit/PathText.vue'
import TypedInput from '../../kit/TypedInput.vue'

// What is made of a type: settings edited in place, rows pasted from a
// spreadsheet become new equipment.
const props = defineProps<{ type: Schemas['Type'] }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
const rows = shallowRef<{ piece: Schemas['PieceInfo']; instance: Schemas['Instance'] }[]>([])
const within = shallowRef<Schemas['PieceInfo'][]>([])
const settings = computed(() => props.type.settings ?? [])
watch(
  () => project.versionOf('type', 'equipment', 'site', 'paths'),
  async () => {
    const all = await ask(
      api.GET('/api/projects/{project}/equipment', {
        params: { path: project.path, query: { type: props.type.id } },
      }),
    ).catch(() => [])
    within.value = all.filter((p) => !p.top)
    rows.value = await Promise.all(
      all
        .filter((p) => p.top)
        .slice(0, 300)
        .map(async (piece) => ({
          piece,
          instance: await ask(
            api.GET('/api/projects/{project}/equipment/{id}', {
              params: { path: { ...project.path, id: piece.instance } },
            }),
          ),
        })),
    )
  },
  { immediate: true },
)
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
const edit = (id: string, path: string, value: unknown) =>
  project.edit(t('gear.changed'), [{ kind: 'equipment', id, path, value }])

// New rows: path, device, then the settings in their order.
const draft = ref('')
const plan = shallowRef<Schemas['Plan']>()
const problem = ref('')
function parsed(): Schemas['EquipmentRow'][] {
  return draft.value
    .split('\n')
    .filter((l) => l.trim())
    .map((l) => {
      const cells = l.split(l.includes('\t') ? '\t' : /[;,]\s*/).map((c) => c.trim())
      return {
        path: cells[0] ?? '',
        device: cells[1] || undefined,
        settings: Object.fromEntries(
          settings.value.map((s, i) => [s.name, cells[i + 2] ?? '']).filter(([, v]) => v),
        ),
      }
    })
}
async function run(apply: boolean) {
  problem.value = ''
  const list = parsed()
  if (!list.length) return void (plan.value = undefined)
  try {
    plan.value = await ask(
      api.POST('/api/projects/{project}/plans/equipment', {
        params: { path: project.path },
        body: { apply, plan: { type: props.type.id, rows: list } },
      }),
    )
    if (apply) {
      draft.value = ''
      plan.value = undefined
    }
  } catch (e) {
    problem.value = sentence(e)
  }
}
watch(draft, () => void run(false))
async function detach(id: string) {
  try {
    await ask(
      api.POST('/api/projects/{project}/equipment/{id}/detach', {
        params: { path: { ...project.path, id } },
      }),
    )
  } catch (e) {
    notice.refuse(e)
  }
}
async function retype(id: string, type: string) {
  try {
    await ask(
      api.POST('/api/projects/{project}/plans/retype', {
        params: { path: project.path },
        body: { apply: true, plan: { equipment: id, type } },
      }),
    )
  } catch (e) {
    notice.refuse(e)
  }
}
const differing = (i: Schemas['Instance']) => Object.keys(i.differs ?? {}).length
</script>

<template>
  <div class="instances">
    <h2>
      {{ $t('gear.instances', { n: rows.length }) }}
      <span v-if="within.length" class="quiet">· {{ $t('gear.within', { n: within.length }) }}</span>
    </h2>
    <table v-if="rows.length" class="grid">
      <thead>
        <tr>
          <th>{{ $t('gear.equipment') }}</th>
          <th>{{ $t('tags.device') }}</th>
          <th v-for="s in settings" :key="s.name">{{ s.name }}</th>
          <th>{{ $t('gear.own') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.piece.id">
          <td>
            <TypedInput
              class="plain mono"
              :value="r.instance.name"
              :title="r.piece.path"
              :aria-label="$t('common.name')"
              @change="edit(r.instance.id, '/name', text($event))" />
          </td>
          <td>
            <select
              class="plain"
              :value="r.instance.device ?? ''"
              :aria-label="$t('tags.device')"
              @change="edit(r.instance.id, '/device', text($event) || undefined)">
              <option value="">—</option>
              <option v-for="d in project.devices" :key="d.id" :value="d.id">{{ d.name }}</option>
            </select>
          </td>
          <td v-for="s in settings" :key="s.name">
            <TypedInput
              class="plain mono short"
              :value="r.instance.settings?.[s.name]"
              :placeholder="s.default"
              :aria-label="s.name"
              @change="edit(r.instance.id, '/settings/' + s.name, text($event) || undefined)" />
          </td>
          <td class="mono">
            <button
              v-if="differing(r.instance)"
              class="chip"
              :title="Object.keys(r.instance.differs ?? {}).join('\n')"
              @click="edit(r.instance.id, '/differs', undefined)">
              {{ $t('gear.takeBack', { n: differing(r.instance) }) }}
            </button>
          </td>
          <td class="acts">
            <select
              class="plain"
              :value="type.id"
              :aria-label="$t('gear.retype')"
              :title="$t('gear.retype')"
              @change="retype(r.instance.id, text($event))">
              <option v-for="x in project.types" :key="x.id" :value="x.id">{{ x.name }}</option>
            </select>
            <button class="chip" @click="detach(r.instance.id)">{{ $t('gear.detach') }}</button>
          </td>
        </tr>
      </tbody>
    </table>
    <label class="new">
      {{ $t('gear.paste', { columns: ['path', 'device', ...settings.map((s) => s.name)].join(', ') }) }}
      <textarea
        v-model="draft"
        class="plain mono"
        rows="3"
        :placeholder="
          [props.type.name + '4', project.devices[0]?.name ?? '', ...settings.map((s) => s.default)].join(
            ', ',
          )
        " />
    </label>
    <table v-if="plan" class="grid">
      <tbody>
        <tr v-for="l in plan.lines" :key="l.path">
          <td class="mono"><PathText :path="l.path" /></td>
          <td class="mono quiet">{{ l.from }}</td>
          <td class="mono quiet">{{ l.address }}</td>
          <td class="err">{{ l.problem }}</td>
        </tr>
      </tbody>
    </table>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div v-if="plan">
      <v-btn color="primary" :disabled="!!plan.problems" @click="run(true)">
        {{ $t('gear.make', { n: plan.total }) }}
      </v-btn>
    </div>
  </div>
</template>

<style scoped>
.instances {
  display: grid;
  gap: 10px;
}
h2 {
  font-size: 15px;
}
.short {
  width: 84px;
}
.grid input,
.grid select {
  min-height: 28px;
  padding: 0 6px;
  font-size: 13px;
}
.new {
  display: grid;
  font-size: 12px;
  color: var(--c-quiet);
  max-width: 720px;
}
.acts {
  display: flex;
  gap: 6px;
}
</style>
