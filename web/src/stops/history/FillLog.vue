<script setup lang="ts">
import { api, ask, type Schemas } from '../../api/client'
import { moment, toSecond } from '../../kit/moment'
import PathText from '../../kit/PathText.vue'
import PreviewBox from '../../kit/PreviewBox.vue'
import SheetPick from '../../kit/SheetPick.vue'
import { useSheetPlan } from '../../kit/useSheetPlan'
import { useProject } from '../../rail/project'

// Values for a log out of a file: one that it was written out to, or of another program.
const props = defineProps<{ log: string }>()
const emit = defineEmits<{ close: []; done: [filling: Schemas['LogFilling']] }>()
const project = useProject()
const { plan, problem, busy, apply, given } = useSheetPlan(
  (cells, apply) =>
    ask(
      api.POST('/api/projects/{project}/logs/{id}/values', {
        params: { path: { project: project.id, id: props.log }, query: { apply } },
        ...cells,
      }),
    ),
  (filling) => emit('done', filling),
)
</script>

<template>
  <PreviewBox
    :title="$t('log.fill.title')"
    :why="$t('log.fill.why')"
    :problem="problem"
    :busy="busy"
    :ready="!!plan?.take && !plan.problems.length"
    :act="$t('log.fill.take', plan?.take ?? 0)"
    @apply="apply"
    @close="emit('close')">
    <SheetPick :pick="$t('log.fill.file')" :paste="$t('log.fill.paste')" @given="given" />
    <template v-if="plan">
      <p v-if="plan.rows" class="facts">
        {{
          $t(
            'log.fill.rows',
            { n: plan.rows, from: moment(plan.from, toSecond), to: moment(plan.to, toSecond) },
            plan.rows,
          )
        }}
      </p>
      <p v-if="plan.old" class="quiet">{{ $t('log.fill.old', plan.old) }}</p>
      <p v-if="plan.ignored.length" class="quiet">
        {{ $t('log.fill.ignored', { names: plan.ignored.join(', ') }) }}
      </p>
    </template>
    <template #preview>
      <table v-if="plan?.problems.length" class="grid" :aria-label="$t('log.fill.problems')">
        <tbody>
          <tr v-for="p in plan.problems" :key="p.line + p.column">
            <td class="num">{{ $t('log.fill.line', { n: p.line }) }}</td>
            <td class="mono">{{ p.column }}</td>
            <td class="err">{{ p.text }}</td>
          </tr>
        </tbody>
      </table>
      <table v-else-if="plan?.tags.length" class="grid" :aria-label="$t('log.fill.title')">
        <thead>
          <tr>
            <th>{{ $t('log.fill.tag') }}</th>
            <th class="num">{{ $t('log.fill.taken') }}</th>
            <th class="num">{{ $t('log.fill.there') }}</th>
            <th class="num">{{ $t('log.fill.known') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in plan.tags" :key="t.tag">
            <td class="mono"><PathText :path="t.path" /></td>
            <td class="num">{{ t.take }}</td>
            <td class="num">{{ t.there || '' }}</td>
            <td class="num">{{ t.known || '' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </PreviewBox>
</template>

<style scoped>
p {
  margin: 0;
}
.num {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.err {
  white-space: normal;
}
</style>
