<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'

// An address shows both numberings and is refused as it is typed.
const props = defineProps<{ modelValue: string; type: string; numbering: number; problem?: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: string] }>()
const project = useProject()
const check = ref<Schemas['AddressCheck']>()

async function run(address: string) {
  check.value = address ? await ask(api.GET('/api/projects/{project}/address', { params: { path: project.path, query: { address, type: props.type } } })).catch(() => undefined) : undefined
}
const soon = useDebounceFn(run, 120)
watch(() => [props.modelValue, props.type], () => run(props.modelValue), { immediate: true })

function commit(typed: string) {
  emit('update:modelValue', typed.trim())
}
</script>

<template>
  <FieldText
    :label="$t('tags.address')" mono :model-value="modelValue" :problem="check && !check.ok ? check.message : problem"
    :hint="check?.ok ? (numbering ? `${check.reference} · ${check.address}` : `${check.address} · ${check.reference}`) : $t('tags.addressHint')" @typing="soon" @update:model-value="commit"
  />
</template>
