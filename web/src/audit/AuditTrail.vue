<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { dayAndTime, moment } from '../kit/moment'
import ArchiveBox from './ArchiveBox.vue'
import { addressOf, everything, questionOf, type TrailFilter } from './trailFilter'
import TrailFilters from './TrailFilters.vue'
import { TRAIL_COLUMNS } from './trailColumns'
import TrailList from './TrailList.vue'
import { useTrailList } from './useTrailList'

// What people did, newest first; refused, unknown and cut off ones too.
const props = defineProps<{
  project: string
  areas: { id: string; name: string }[]
  tag?: string
  tagPath?: string
}>()
const emit = defineEmits<{ 'all-tags': [] }>()
const filter = ref<TrailFilter>(everything())
const list = useTrailList(
  () => props.project,
  () => filter.value,
  () => props.tag,
)
const seal = ref<Schemas['Seal']>()
const archives = ref(false)
function closed() {
  seal.value = undefined
  void list.load()
}

async function verify() {
  seal.value = await ask(
    api.GET('/api/projects/{project}/audit/seal', { params: { path: { project: props.project } } }),
  ).catch(() => undefined)
}
const exported = computed(
  () =>
    `/api/projects/${props.project}/audit/export?` +
    addressOf(questionOf(filter.value, props.tag, Date.now())),
)
</script>

<template>
  <div class="trail">
    <div class="tools">
      <TrailFilters v-model="filter" :areas="areas" />
      <span class="grow" />

      <v-btn variant="text" @click="archives = !archives">{{ $t('audit.parts.title') }}</v-btn>
      <v-btn variant="text" color="primary" @click="verify">{{ $t('audit.verify') }}</v-btn>
      <a
        :href="`/api/projects/${project}/audit/export?format=signed`"
        :title="$t('audit.signedWhy')"
        download>
        {{ $t('audit.signedFile') }}
      </a>
      <a v-for="f in ['csv', 'xlsx', 'pdf'] as const" :key="f" :href="`${exported}&format=${f}`" download>
        {{ f.toUpperCase() }}
      </a>
    </div>
    <ArchiveBox
      v-if="archives"
      :project="project"
      of="audit"
      :why="$t('audit.parts.why')"
      :go="$t('audit.parts.close')"
      @closed="closed" />
    <p v-if="seal" class="own" role="status">
      <span :class="seal.whole ? 'good' : 'err'">
        {{ seal.whole ? $t('audit.whole', { n: seal.records }) : seal.problem }}
      </span>
      <template v-if="seal.whole">
        <template v-if="seal.before">· {{ $t('audit.parts.before', { n: seal.before }) }}</template>
        ·
        {{
          seal.elsewhere
            ? $t('audit.head', { n: seal.head, at: moment(seal.headAt, dayAndTime), place: seal.place })
            : $t('audit.alone')
        }}
      </template>
      <span v-if="seal.unwritten" class="err">{{ $t('audit.unwritten', { why: seal.unwritten }) }}</span>
    </p>
    <p v-if="tag" class="own">
      {{ $t('audit.ofTag', { path: tagPath || tag }) }}
      <button class="chip" @click="emit('all-tags')">{{ $t('audit.allTags') }}</button>
    </p>
    <TrailList :project="project" :list="list" :columns="TRAIL_COLUMNS" />
  </div>
</template>

<style scoped>
.trail {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  padding: 8px 16px;
}
/* At the Desk a finger presses. */
.desk .tools :deep(:is(input, select, button, a)) {
  min-height: 44px;
  min-width: 44px;
  display: inline-flex;
  align-items: center;
  justify-content: center;
}
.own {
  margin: 0;
  padding: 0 16px 8px;
}
.grow {
  flex: 1;
}
.good {
  color: var(--c-spruce);
  font-weight: 600;
}
</style>
