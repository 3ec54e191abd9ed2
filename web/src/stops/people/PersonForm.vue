<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useSession } from '../../api/session'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import { useProject } from '../../rail/project'

const props = defineProps<{ person: Schemas['PersonRow'] | undefined }>()
const emit = defineEmits<{ close: []; saved: [] }>()
const project = useProject()
const form = ref({
  name: props.person?.name ?? '',
  fullName: props.person?.fullName ?? '',
  password: '',
  pin: '',
  disabled: props.person?.disabled ?? false,
  server: props.person?.server ?? false,
  until: props.person?.until ?? '',
  renew: props.person?.renew ?? false,
})
const session = useSession()
const others = computed(() => props.person?.id !== session.me?.person?.id)
const problem = ref('')

async function act(what: () => Promise<unknown>) {
  problem.value = ''
  try {
    await what()
    emit('saved')
  } catch (e) {
    problem.value = sentence(e)
  }
}
const save = () =>
  act(() => {
    const body = form.value
    if (!props.person)
      return ask(api.POST('/api/projects/{project}/people', { params: { path: project.path }, body }))
    const params = { path: { ...project.path, id: props.person.id } }
    return ask(api.PUT('/api/projects/{project}/people/{id}', { params, body }))
  })
const badge = ref('')
const putBadge = (number: string) =>
  act(() => {
    const params = { path: { ...project.path, id: props.person!.id } }
    return ask(api.PUT('/api/projects/{project}/people/{id}/badge', { params, body: { number } }))
  })
/** Takes the one-time codes away: of somebody who has lost what makes them. */
const takeSecond = () =>
  act(() => {
    const params = { path: { ...project.path, id: props.person!.id } }
    return ask(api.DELETE('/api/projects/{project}/people/{id}/second', { params }))
  })
</script>

<template>
  <InspectorPane :title="person?.fullName ?? $t('people.new')">
    <form class="form" @submit.prevent="save">
      <FieldText
        :label="$t('people.fullName')"
        :disabled="person?.directory"
        :model-value="form.fullName"
        @typing="form.fullName = $event" />
      <FieldText
        :label="$t('people.login')"
        :disabled="person?.directory"
        :model-value="form.name"
        :hint="person?.directory ? $t('directory.kept') : undefined"
        @typing="form.name = $event" />
      <FieldText
        v-if="!person?.directory"
        :label="$t('people.password')"
        type="password"
        :model-value="form.password"
        :hint="
          person?.hasPassword
            ? $t('people.keep')
            : $t('people.passwordRule', { n: session.me?.lengths.password })
        "
        @typing="form.password = $event" />
      <FieldText
        :label="$t('people.pin')"
        type="password"
        :model-value="form.pin"
        :hint="person?.hasPin ? $t('people.keep') : $t('people.pinRule', { n: session.me?.lengths.pin })"
        @typing="form.pin = $event" />
      <FieldText
        v-if="!person?.owner"
        :label="$t('people.until')"
        type="date"
        :model-value="form.until"
        :hint="$t('people.untilHint')"
        @typing="form.until = $event" />
      <FieldCheck
        v-if="person && others && !person.directory"
        v-model="form.renew"
        :label="$t('people.renew')" />
      <FieldCheck v-if="person && !person.owner" v-model="form.disabled" :label="$t('people.disable')" />
      <FieldCheck
        v-if="session.me?.person?.owner && person && !person.owner"
        v-model="form.server"
        :label="$t('people.server')" />
      <div v-if="person" class="badge">
        <FieldText
          :label="$t('badge.title')"
          :model-value="badge"
          :hint="person.hasBadge ? $t('badge.has') : $t('badge.read')"
          @typing="badge = $event"
          @keydown.enter.prevent="badge.trim() && putBadge(badge)" />
        <div class="row">
          <v-btn variant="outlined" :disabled="!badge.trim()" @click="putBadge(badge)">
            {{ $t('badge.give') }}
          </v-btn>
          <v-btn v-if="person.hasBadge" variant="text" @click="putBadge('')">{{ $t('badge.take') }}</v-btn>
        </div>
      </div>
      <div v-if="person?.second" class="row">
        <span class="quiet">{{ $t('second.has') }}</span>
        <v-btn variant="outlined" @click="takeSecond">{{ $t('second.take') }}</v-btn>
      </div>
      <p v-if="others && (form.password || form.pin)" class="quiet">{{ $t('people.once') }}</p>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <div class="row">
        <v-btn type="submit" color="primary">{{ $t('common.save') }}</v-btn>
        <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
  </InspectorPane>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.badge {
  display: grid;
  gap: 6px;
}
.row {
  display: flex;
  gap: 8px;
}
</style>
