<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Device, type Schemas, sentence } from '../../api/client'
import { freshId, useProject } from '../../rail/project'

// What the broker sends for a filter in some seconds; a member of a payload
// becomes a tag with a click.
const props = defineProps<{ device: Device }>()
const project = useProject()
const { t } = useI18n()
const filter = ref('#')
const heard = shallowRef<Schemas['Heard'][]>()
const busy = ref(false)
const problem = ref('')
const made = ref(new Set<string>())

async function listen() {
  busy.value = true
  problem.value = ''
  try {
    heard.value = await ask(
      api.GET('/api/projects/{project}/devices/{id}/hear', {
        params: {
          path: { ...project.path, id: props.device.id },
          query: { filter: filter.value, seconds: 3 },
        },
      }),
    )
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
onMounted(listen)
const address = (topic: string, m: Schemas['PayloadMember']) => (m.path ? `${topic}|${m.path}` : topic)
async function make(topic: string, m: Schemas['PayloadMember']) {
  const name = (m.path || topic)
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^([^A-Za-z])/, 'N$1')
    .slice(0, 60)
  const at = address(topic, m)
  const refused = await project.edit(t('tags.added'), [
    {
      kind: 'tag',
      id: freshId('tag'),
      path: '',
      value: { name, type: m.type, source: 'device', device: props.device.id, address: at, access: 'read' },
    },
  ])
  if (!refused) made.value = new Set(made.value).add(at)
}
</script>

<template>
  <div class="ear">
    <form class="ask" @submit.prevent="listen">
      <input v-model="filter" class="plain mono" :aria-label="$t('ear.filter')" />
      <v-btn type="submit" size="small" color="primary" :loading="busy">{{ $t('ear.listen') }}</v-btn>
      <span class="quiet">{{ $t('ear.hint') }}</span>
    </form>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <p v-else-if="heard && !heard.length" class="quiet">{{ $t('ear.nothing') }}</p>
    <section v-for="h in heard ?? []" :key="h.topic">
      <h2 class="mono">
        {{ h.topic }}
        <span class="quiet">× {{ h.count }}</span>
      </h2>
      <table class="grid">
        <tbody>
          <tr v-for="m in h.members" :key="m.path">
            <td class="mono">{{ m.path || $t('ear.whole') }}</td>
            <td class="mono">{{ m.type }}</td>
            <td class="mono">{{ m.value }}</td>
            <td>
              <button class="chip" :disabled="made.has(address(h.topic, m))" @click="make(h.topic, m)">
                {{ made.has(address(h.topic, m)) ? $t('ear.made') : $t('ear.make') }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.ear {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 12px 16px;
  overflow: auto;
}
.ask {
  display: flex;
  gap: 10px;
  align-items: center;
}
.ask .plain {
  width: 260px;
}
</style>
