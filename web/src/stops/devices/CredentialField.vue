<script setup lang="ts">
import { onMounted, shallowRef } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'

// A credential by its name in the vault; what it holds never comes here.
defineProps<{ modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [name: string] }>()
const entries = shallowRef<Schemas['VaultEntry'][]>([])
onMounted(async () => (entries.value = await ask(api.GET('/api/vault')).catch(() => [])))
</script>

<template>
  <FieldSelect
    :label="$t('vault.credential')"
    :model-value="modelValue"
    :options="[
      { value: '', title: $t('vault.anonymous') },
      ...entries.map((e) => ({ value: e.name, title: e.name + ' · ' + $t($word('vault.kind', e.kind)) })),
      ...(modelValue && !entries.some((e) => e.name === modelValue)
        ? [{ value: modelValue, title: modelValue }]
        : []),
    ]"
    @update:model-value="emit('update:modelValue', $event)" />
</template>
