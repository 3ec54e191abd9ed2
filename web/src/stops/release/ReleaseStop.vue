<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useSession } from '../../api/session'
import FieldText from '../../kit/FieldText.vue'
import { dayAndTime, moment } from '../../kit/moment'
import { useProject } from '../../rail/project'
import CarriedRecipes from './CarriedRecipes.vue'
import ChangedLimits from './ChangedLimits.vue'
import AuditTrail from '../../audit/AuditTrail.vue'
import FindingList from './FindingList.vue'

const project = useProject()
const session = useSession()
const releases = shallowRef<Schemas['ReleaseInfo'][]>([])
const note = ref('')
const problem = ref('')
const limits = ref<Record<string, 'keep' | 'adopt' | 'discard'>>({})
const busy = ref(false)
const withRecipes = ref(false)
const route = useRoute()
const router = useRouter()
/** The tag whose own trail is asked for by the address. */
const ownTag = computed(() => String(route.query.tag ?? '') || undefined)
const ownPath = computed(() => String(route.query.path ?? ''))
const allTags = () => router.replace({ query: {} })
const tab = ref<'findings' | 'releases' | 'audit'>(ownTag.value ? 'audit' : 'findings')
const errors = computed(() => project.findings.filter((f) => f.severity === 'error').length)
const next = computed(() => (releases.value[0]?.number ?? 0) + 1)

watch(
  () => project.versionOf('release'),
  async () => {
    releases.value = await ask(
      api.GET('/api/projects/{project}/releases', { params: { path: project.path } }),
    ).catch(() => [])
  },
  { immediate: true },
)

async function publish() {
  busy.value = true
  problem.value = ''
  try {
    await ask(
      api.POST('/api/projects/{project}/releases', {
        params: { path: project.path },
        body: { note: note.value, limits: limits.value },
      }),
    )
    note.value = ''
    await project.refresh()
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const tabs = computed(
  () =>
    ['findings', 'releases', ...(session.may(project.id, 'audit') ? ['audit'] : [])] as (typeof tab.value)[],
)
</script>

<template>
  <section class="stop">
    <div class="stop-head">
      <h1>{{ $t('stop.release') }}</h1>
      <span class="quiet">
        {{
          !project.overview?.release
            ? $t('release.first')
            : project.overview.changed
              ? $t('release.changed', { n: project.overview.release.number })
              : $t('release.same', { n: project.overview.release.number })
        }}
      </span>
      <span class="grow" />
      <FieldText class="note" :label="$t('release.note')" :model-value="note" @typing="note = $event" />
      <v-btn
        color="primary"
        size="large"
        :disabled="errors > 0 || !session.may(project.id, 'release')"
        :loading="busy"
        @click="publish">
        {{ $t('release.do', { n: next }) }}
      </v-btn>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    </div>
    <ChangedLimits v-model="limits" />
    <CarriedRecipes />
    <div class="tabs" role="tablist">
      <button
        v-for="x in tabs"
        :key="x"
        role="tab"
        :aria-selected="tab === x"
        :class="{ on: tab === x }"
        @click="tab = x">
        {{ $t($word('release', x)) }}
        <span v-if="x === 'findings'" class="n" :class="{ err: errors }">{{ project.findings.length }}</span>
      </button>
    </div>
    <FindingList v-if="tab === 'findings'" :findings="project.findings" />
    <div v-else-if="tab === 'releases'" class="scroll">
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('release.number') }}</th>
            <th>{{ $t('release.at') }}</th>
            <th>{{ $t('release.by') }}</th>
            <th>{{ $t('release.note') }}</th>
            <th>{{ $t('release.hash') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in releases" :key="r.number">
            <td>
              <strong>{{ r.number }}</strong>
              <span v-if="!i" class="chip on run">{{ $t('release.running') }}</span>
            </td>
            <td class="mono">{{ moment(r.at, dayAndTime) }}</td>
            <td>{{ r.person }}</td>
            <td>{{ r.note }}</td>
            <td class="mono quiet">{{ r.hash.slice(0, 12) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="pad">
        <a :href="`/api/projects/${project.id}/archive?recipes=${withRecipes}`" download>
          {{ $t('release.archive') }}
        </a>
        <label class="with">
          <input v-model="withRecipes" type="checkbox" />
          {{ $t('release.archiveRecipes') }}
        </label>
      </p>
    </div>
    <AuditTrail v-else :project="project.id" :tag="ownTag" :tag-path="ownPath" @all-tags="allTags" />
  </section>
</template>

<style scoped>
.note {
  width: 260px;
}
.tabs {
  display: flex;
  gap: 4px;
  padding: 0 16px;
  background: var(--c-paper);
  border-bottom: 1px solid var(--c-line);
}
.tabs button {
  background: none;
  border: 0;
  padding: 8px 14px;
  cursor: pointer;
  border-bottom: 3px solid transparent;
}
.tabs .on {
  border-color: var(--c-spruce);
  font-weight: 650;
}
.n {
  margin-left: 6px;
  font-size: 12px;
}
.scroll {
  overflow: auto;
}
.run {
  margin-left: 10px;
}
.pad {
  padding: 0 16px;
}
.with {
  margin-left: 16px;
}
</style>
