<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'

// An address is checked as it is typed, by the grammar of its device; a
// register shows both numberings.
const props = defineProps<{
  label: string
  modelValue: string
  type: string
  device: string
  numbering: number
  problem?: string
  optional?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [value: string] }>()
const project = useProject()
const check = ref<Schemas['AddressCheck']>()

async function run(address: string) {
  check.value = address
    ? await ask(
        api.GET('/api/projects/{project}/address', {
          params: { path: project.path, query: { address, type: props.type, device: props.device } },
        }),
      ).catch(() => undefined)
    : undefined
}
const soon = useDebounceFn(run, 120)
watch(
  () => [props.modelValue, props.type, props.device],
  () => run(props.modelValue),
  { immediate: true },
)

function hint() {
  const c = check.value
  if (!c?.ok)
    return props.optional
      ? ''
      : project.devices.find((d) => d.id === props.device)?.protocol === 'modbus-tcp'
        ? 'holding:40, holding:40.3, coil:7'
        : ''
  if (!c.reference) return ''
  return props.numbering ? `${c.reference} · ${c.address}` : `${c.address} · ${c.reference}`
}
</script>

<template>
  <FieldText
    :label="label"
    mono
    :model-value="modelValue"
    :problem="check && !check.ok ? check.message : problem"
    :placeholder="optional ? $t('tags.sameAddress') : undefined"
    :hint="hint()"
    @typing="soon"
    @update:model-value="emit('update:modelValue', $event.trim())" />
</template>
