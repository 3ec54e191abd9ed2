<script setup lang="ts">
import { computed, ref } from 'vue'
import ArchiveBox from './ArchiveBox.vue'
import { addressOf, everything, questionOf, type TrailFilter } from './trailFilter'
import TrailFilters from './TrailFilters.vue'
import { TRAIL_COLUMNS } from './trailColumns'
import TrailList from './TrailList.vue'
import TrailSeal from './TrailSeal.vue'
import { useTrailCheck } from './useTrailCheck'
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
const archives = ref(false)
function closed() {
  void look()
  void list.load()
}

const { seal, problem, look, check } = useTrailCheck(props.project)
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
      <v-btn variant="text" color="primary" :disabled="seal?.busy" @click="check">
        {{ $t('audit.verify') }}
      </v-btn>
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
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <TrailSeal v-if="seal" :seal="seal" />
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
</style>
