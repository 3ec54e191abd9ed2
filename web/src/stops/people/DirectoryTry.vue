<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import FieldText from '../../kit/FieldText.vue'

// Asks the directory by the settings as they stand in the form, before they are kept.
const props = defineProps<{ settings: Schemas['Directory'] }>()
const name = ref('')
const busy = ref(false)
const problem = ref('')
const told = shallowRef<Schemas['DirectoryTry']>()
async function go() {
  busy.value = true
  problem.value = ''
  told.value = undefined
  try {
    const body = { directory: props.settings, name: name.value || undefined }
    told.value = await ask(api.POST('/api/directory/try', { body }))
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="try" @submit.prevent="go">
    <h3>{{ $t('directory.try') }}</h3>
    <div class="row">
      <FieldText
        v-if="settings.kind === 'ldap'"
        :label="$t('directory.tryName')"
        :model-value="name"
        @typing="name = $event" />
      <v-btn type="submit" variant="outlined" :loading="busy">{{ $t('directory.try') }}</v-btn>
    </div>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div v-if="told" role="status">
      <strong>{{ $t('directory.answers', { title: settings.title }) }}</strong>
      <template v-if="told.name">
        <p>{{ $t('directory.found', { name: told.name, fullName: told.fullName }) }}</p>
        <p>{{ $t('directory.inGroups', { list: told.groups.join(', ') || $t('directory.nothing') }) }}</p>
        <p>{{ $t('directory.getsRoles', { list: told.roles.join(', ') || $t('directory.nothing') }) }}</p>
      </template>
    </div>
  </form>
</template>

<style scoped>
.try {
  margin-top: 20px;
  padding-top: 8px;
  border-top: 1px solid var(--c-line);
}
.row {
  display: flex;
  align-items: end;
  gap: 10px;
}
p {
  margin: 4px 0;
  overflow-wrap: anywhere;
}
</style>
