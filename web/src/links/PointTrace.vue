<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { ref, shallowRef, watch } from 'vue'
import CourseFigure from '../alarms/CourseFigure.vue'
import { api, ask, type Schemas } from '../api/client'

/** The course of a point: what is recorded of it, up to an hour. */
const props = defineProps<{ project: string; id: string }>()
const HOUR = 3_600_000
const EVERY = 5000
const SHORTEST = 60_000
const points = shallowRef<Schemas['CoursePoint'][]>()
const from = ref(Date.now() - HOUR)
const to = ref(Date.now())

async function load() {
  const now = Date.now()
  const got = await ask(
    api.GET('/api/projects/{project}/points/{id}/course', {
      params: { path: { project: props.project, id: props.id }, query: { from: now - HOUR, to: now } },
    }),
  ).catch(() => undefined)
  if (!got) return
  points.value = got
  to.value = now
  // Of a young project the hour is mostly empty: it begins where the course does.
  const first = got.find((p) => !p.bad)?.at ?? now - HOUR
  from.value = Math.min(Math.max(first, now - HOUR), now - SHORTEST)
}
watch(() => [props.project, props.id], load, { immediate: true })
useIntervalFn(load, EVERY)
</script>

<template>
  <CourseFigure :points="points" :from="from" :to="to" :label="$t('point.course')" />
</template>
