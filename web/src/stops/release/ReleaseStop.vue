<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useSession } from '../../api/session'
import FieldText from '../../kit/FieldText.vue'
import StopTabs from '../../kit/StopTabs.vue'
import { useProject } from '../../rail/project'
import { type Answer, useAsked } from '../../desk/asked'
import BeforeRelease from './BeforeRelease.vue'
import CarriedRecipes from './CarriedRecipes.vue'
import ChangesPane from './ChangesPane.vue'
import ChangedLimits from './ChangedLimits.vue'
import AuditTrail from '../../audit/AuditTrail.vue'
import FindingList from './FindingList.vue'
import ReleaseList from './ReleaseList.vue'

const project = useProject()
const { t } = useI18n()
const session = useSession()
const releases = shallowRef<Schemas['ReleaseInfo'][]>([])
const note = ref('')
const problem = ref('')
const limits = ref<Record<string, 'keep' | 'adopt' | 'discard'>>({})
const busy = ref(false)
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
const asked = useAsked()
const open = shallowRef<Schemas['BeforeRelease']>()
/** What the last release did, until the draft is changed. */
const made = shallowRef<Schemas['ReleaseMade']>()
/** What stands in the way of a release, by what the site asks. */
const blocked = computed(
  () =>
    errors.value > 0 ||
    !!open.value?.inTheWay ||
    (!!open.value?.proved && open.value.points.open + open.value.elements.open > 0) ||
    (!!open.value?.note && !note.value.trim()),
)
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
watch(
  () => [project.id, project.overview?.revision, project.overview?.release?.number],
  async () => {
    if (!project.id) return
    if (made.value && made.value.change !== project.overview?.revision && !made.value.again)
      made.value = undefined
    open.value = await ask(
      api.GET('/api/projects/{project}/releases/open', { params: { path: project.path } }),
    ).catch(() => open.value)
  },
  { immediate: true },
)

/** Releases by one of the two roads; what is asked first is asked. */
async function release(title: string, run: (answer: Answer) => Promise<Schemas['ReleaseAnswer']>) {
  busy.value = true
  problem.value = ''
  try {
    const got = await asked.send({ title, says: project.overview?.site.name ?? '' }, run)
    if (!got?.made) return
    made.value = got.made
    note.value = ''
    await project.refresh()
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
function publish() {
  const body = { note: note.value, limits: limits.value, seen: project.overview?.revision }
  void release(t('release.do', { n: next.value }), (answer) =>
    ask(
      api.POST('/api/projects/{project}/releases', {
        params: { path: project.path },
        body: { ...body, ...answer },
      }),
    ),
  )
}
function goBack(number: number, why: string) {
  void release(t('release.again', { n: number }), (answer) =>
    ask(
      api.POST('/api/projects/{project}/releases/{number}/return', {
        params: { path: { ...project.path, number } },
        body: { note: why, limits: {}, ...answer },
      }),
    ),
  )
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
        :disabled="blocked || !session.may(project.id, 'release')"
        :loading="busy"
        @click="publish">
        {{ $t('release.do', { n: next }) }}
      </v-btn>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    </div>
    <p v-if="made" class="made" role="status">
      {{ $t('release.made', { ...made }) }}
      <template v-if="made.ended.length">
        · {{ $t('release.ended', { names: made.ended.join(', ') }) }}
      </template>
      <template v-if="made.devices.length">
        · {{ $t('release.devices', { names: made.devices.join(', ') }) }}
      </template>
    </p>
    <BeforeRelease v-if="open" :open="open" @changes="tab = 'changes'" @findings="tab = 'findings'" />
    <ChangedLimits v-model="limits" />
    <CarriedRecipes />
    <StopTabs v-model="tab" :tabs="tabs" />
    <FindingList v-if="tab === 'findings'" :findings="project.findings" />
    <ChangesPane v-else-if="tab === 'changes'" :releases="releases" :from="compared" />
    <ReleaseList
      v-else-if="tab === 'releases'"
      :releases="releases"
      :may="session.may(project.id, 'release') && !busy"
      @compare="compare"
      @again="goBack" />
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
.made {
  margin: 0;
  padding: 8px 16px;
  background: var(--c-tint);
}
</style>
