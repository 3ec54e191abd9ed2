<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { sentence, type Schemas } from '../../api/client'
import { useSession } from '../../api/session'
import DialogBox from '../../kit/DialogBox.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useProject } from '../../rail/project'

// Looking at the Desk with the rights of a role in an area.
const props = defineProps<{ role: Schemas['Role']; areas: { id: string; name: string }[] }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const session = useSession()
const router = useRouter()
const area = ref('')
const problem = ref('')

async function look() {
  problem.value = ''
  try {
    await session.lookAs(project.id, props.role.id, area.value)
    await router.push({ name: 'desk', params: { project: project.id } })
  } catch (e) {
    problem.value = sentence(e)
  }
}
</script>

<template>
  <DialogBox :label="$t('lookAs.title', { role: role.name })" @close="emit('close')">
    <form class="box" @submit.prevent="look">
      <h2>{{ $t('lookAs.title', { role: role.name }) }}</h2>
      <p class="quiet">{{ $t('lookAs.why') }}</p>
      <FieldSelect
        v-model="area"
        :label="$t('lookAs.area')"
        :options="areas.map((a) => ({ value: a.id, title: a.name }))" />
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <div class="do">
        <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
        <v-btn type="submit" color="primary">{{ $t('lookAs.go') }}</v-btn>
      </div>
    </form>
  </DialogBox>
</template>

<style scoped>
.box {
  width: min(420px, 100vw);
  box-sizing: border-box;
  padding: 20px 24px;
  display: grid;
  gap: 12px;
}
h2,
p {
  margin: 0;
}
.do {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
