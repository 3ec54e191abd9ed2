<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, sentence, type Schemas } from '../../api/client'
import { useSession } from '../../api/session'
import DialogBox from '../../kit/DialogBox.vue'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldText from '../../kit/FieldText.vue'
import { freshId, useProject } from '../../rail/project'
import type { ViewPen } from '../../trend/pens'

// Keeps pens as a view by name: a new one, or in the place of the one that is open.
const props = defineProps<{ pens: ViewPen[]; span: number; was?: Schemas['ViewShown'] }>()
const emit = defineEmits<{ close: []; kept: [view: string, of?: string] }>()
const { t } = useI18n({ useScope: 'global' })
const project = useProject()
const name = ref(props.was?.name ?? '')
const note = ref(props.was?.note ?? '')
const plan = shallowRef<Schemas['ViewPlan']>()
/** Who may not change the draft keeps views for themselves. */
const shared = useSession().may(project.id, 'engineer')
const mine = ref(props.was ? props.was.mine : !shared)
const forAll = ref(!props.was || !!props.was.type)
void ask(
  api.GET('/api/projects/{project}/trend/plan', {
    params: { path: { project: project.id }, query: { tags: props.pens.map((p) => p.tag).join(',') } },
  }),
).then((p) => (plan.value = p))
const serves = computed(() => (plan.value?.type ? plan.value : undefined))
const refused = ref('')

async function keep(anew: boolean) {
  const same = !anew && props.was?.mine === mine.value ? props.was.id : undefined
  const own = forAll.value ? serves.value : undefined
  const value = {
    name: name.value.trim(),
    note: note.value.trim() || undefined,
    span: Math.round(props.span / 1000),
    type: own?.type,
    pens: props.pens.map((p, i) => ({ ...p, tag: own?.pens[i] ?? p.tag })),
  }
  refused.value = ''
  const id = mine.value ? await keepOwn(same, value) : await keepShared(same ?? freshId('view'), value)
  if (id) emit('kept', id, own?.equipment)
}
type Kept = Pick<Schemas['ViewShown'], 'name'> & {
  note?: string
  span?: number
  type?: string
  pens: ViewPen[]
}
async function keepShared(id: string, value: Kept) {
  const problem = await project.edit(t('history.kept.edit', { name: value.name }), [
    { kind: 'view', id, path: '', value },
  ])
  if (problem) refused.value = problem.message
  return problem ? undefined : id
}
const keepOwn = (id: string | undefined, value: Kept) =>
  ask(
    api.PUT('/api/projects/{project}/trend/own-views', {
      params: { path: project.path },
      body: { ...value, id },
    }),
  ).catch((e) => ((refused.value = sentence(e)), undefined))
</script>

<template>
  <DialogBox :label="$t('history.keep')" @close="emit('close')">
    <form class="keep" @submit.prevent="keep(!was)">
      <h2>{{ $t('history.keep') }}</h2>
      <FieldText
        :label="$t('history.name')"
        :model-value="name"
        autofocus
        @typing="name = $event"
        @update:model-value="name = $event" />
      <FieldText
        :label="$t('history.note')"
        :model-value="note"
        @typing="note = $event"
        @update:model-value="note = $event" />
      <FieldCheck
        v-if="serves"
        :label="$t('history.forAll', { type: serves.typeName })"
        :model-value="forAll"
        @update:model-value="forAll = $event" />
      <FieldCheck
        v-if="shared"
        :label="$t('history.mine')"
        :model-value="mine"
        @update:model-value="mine = $event" />
      <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
      <div class="acts">
        <button type="button" class="chip" @click="emit('close')">{{ $t('common.cancel') }}</button>
        <button v-if="was" type="button" class="chip" :disabled="!name.trim()" @click="keep(true)">
          {{ $t('history.keepNew') }}
        </button>
        <button type="submit" class="chip on" :disabled="!name.trim()">{{ $t('history.keepIt') }}</button>
      </div>
    </form>
  </DialogBox>
</template>

<style scoped>
.keep {
  width: min(420px, 92vw);
  padding: 18px 22px;
  display: grid;
  gap: 10px;
}
h2 {
  margin: 0;
  font-size: 18px;
}
.acts {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.refused {
  color: var(--c-error);
  margin: 0;
}
</style>
