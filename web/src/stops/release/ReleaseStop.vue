<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useSession } from '../../api/session'
import FieldText from '../../kit/FieldText.vue'
import StopTabs from '../../kit/StopTabs.vue'
import { dayAndTime, moment } from '../../kit/moment'
import { useProject } from '../../rail/project'
import CarriedRecipes from './CarriedRecipes.vue'
import ChangesPane from './ChangesPane.vue'
import ChangedLimits from './ChangedLimits.vue'
import AuditTrail from '../../audit/AuditTrail.vue'
import FindingList from './FindingList.vue'

const project = useProject()
const { t } = useI18n()
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
const tab = ref<'findings' | 'changes' | 'releases' | 'audit'>(ownTag.value ? 'audit' : 'findings')
/** The release that the draft is compared with. */
const compared = ref<number>()
function compare(release: number) {
  compared.value = release
  tab.value = 'changes'
}
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
const tabs = computed(() => [
  {
    key: 'findings' as const,
    title: t('release.findings'),
    count: project.findings.length,
    alert: errors.value > 0,
  },
  { key: 'changes' as const, title: t('changes.tab') },
  { key: 'releases' as const, title: t('release.releases') },
  ...(session.may(project.id, 'audit') ? [{ key: 'audit' as const, title: t('release.audit') }] : []),
])
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
    <StopTabs v-model="tab" :tabs="tabs" />
    <FindingList v-if="tab === 'findings'" :findings="project.findings" />
    <ChangesPane v-else-if="tab === 'changes'" :releases="releases" :from="compared" />
    <div v-else-if="tab === 'releases'" class="scroll">
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('release.number') }}</th>
            <th>{{ $t('release.at') }}</th>
            <th>{{ $t('release.by') }}</th>
            <th>{{ $t('release.note') }}</th>
            <th>{{ $t('release.hash') }}</th>
            <th />
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
            <td>
              <button class="bare link" @click="compare(r.number)">{{ $t('changes.compare') }}</button>
            </td>
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
    <AuditTrail
      v-else
      :project="project.id"
      :areas="project.overview?.site.areas ?? []"
      :tag="ownTag"
      :tag-path="ownPath"
      @all-tags="allTags" />
  </section>
</template>

<style scoped>
.note {
  width: 260px;
}
.scroll {
  overflow: auto;
}
.run {
  margin-left: 10px;
}
.link {
  color: var(--c-spruce);
}
.pad {
  padding: 0 16px;
}
.with {
  margin-left: 16px;
}
</style>
