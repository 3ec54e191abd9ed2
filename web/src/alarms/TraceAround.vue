<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import CourseFigure from './CourseFigure.vue'

/** The recorded course of an alarm's signal around the moment at which it came. */
const props = defineProps<{ project: string; tag: string; at: number; limit?: string }>()
const AROUND = 10 * 60_000
const points = shallowRef<Schemas['CoursePoint'][]>()
const from = computed(() => props.at - AROUND)
const to = computed(() => Math.min(props.at + AROUND, Math.max(Date.now(), props.at + 1000)))
watch(
  () => [props.tag, props.at],
  async () => {
    points.value = await ask(
      api.GET('/api/projects/{project}/points/{id}/course', {
        params: {
          path: { project: props.project, id: props.tag },
          query: { from: from.value, to: to.value },
        },
      }),
    ).catch(() => undefined)
  },
  { immediate: true },
)

const bound = computed(() => {
  const n = Number((props.limit ?? '').replace(',', '.').split(' ')[0])
  return props.limit && Number.isFinite(n) ? n : undefined
})
</script>

<template>
  <CourseFigure
    :points="points"
    :from="from"
    :to="to"
    :came="at"
    :bound="bound"
    :label="$t('alarm.around')" />
</template>
