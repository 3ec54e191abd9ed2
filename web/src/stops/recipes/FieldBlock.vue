<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'
import { folderName } from './folderName'
import PlanBox from './PlanBox.vue'
import { usePlan } from '../../kit/usePlan'

// The fields of a book that go nowhere yet, laid out in a block of registers.
const props = defineProps<{ book: string; name: string }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const devices = computed(() =>
  project.devices.filter((d) => d.protocol === 'modbus-tcp').map((d) => ({ value: d.id, title: d.name })),
)
const device = ref(devices.value[0]?.value ?? '')
const address = ref('holding:0')
const folder = ref(folderName(props.name))
const { plan, problem, busy, look, apply } = usePlan(
  (apply) =>
    ask(
      api.POST('/api/projects/{project}/plans/block', {
        params: { path: project.path },
        body: {
          apply,
          plan: {
            book: props.book,
            device: device.value,
            address: address.value.trim(),
            folder: folder.value.trim(),
          },
        },
      }),
    ),
  () => emit('close'),
)
watch([device, refDebounced(address, 250), refDebounced(folder, 250)], () => void look(), { immediate: true })
const made = computed(() => plan.value?.total ?? 0)
</script>

<template>
  <PlanBox
    :title="$t('book.block')"
    :why="$t('book.blockWhy')"
    :plan="plan"
    :problem="problem"
    :busy="busy"
    :made="made"
    :act="$t('book.blockLay', made)"
    @apply="apply"
    @close="emit('close')">
    <div class="asked">
      <FieldSelect v-model="device" :label="$t('devices.add')" :options="devices" />
      <FieldText
        :label="$t('book.blockAddress')"
        mono
        :model-value="address"
        @typing="address = $event"
        @update:model-value="address = $event" />
      <FieldText
        :label="$t('book.blockFolder')"
        mono
        :model-value="folder"
        @typing="folder = $event"
        @update:model-value="folder = $event" />
    </div>
  </PlanBox>
</template>

<style scoped>
.asked {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px;
}
</style>
