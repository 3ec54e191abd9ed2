<script setup lang="ts">
import { useRoles } from '../../rail/useRoles'

// Which roles may do something; none ticked leaves it to the rights in the area.
const props = defineProps<{ label: string; chosen: string[] }>()
const emit = defineEmits<{ set: [roles: string[] | undefined] }>()
const roles = useRoles()
function flip(role: string) {
  const next = props.chosen.includes(role) ? props.chosen.filter((r) => r !== role) : [...props.chosen, role]
  emit('set', next.length ? next : undefined)
}
</script>

<template>
  <div v-if="roles.length" class="block">
    <h2>{{ label }}</h2>
    <label v-for="r in roles" :key="r.id" class="line">
      <input
        type="checkbox"
        :checked="chosen.includes(r.id)"
        :aria-label="`${label}: ${r.name}`"
        @change="flip(r.id)" />
      {{ r.name }}
    </label>
    <p v-if="!chosen.length" class="quiet small">{{ $t('editor.byArea') }}</p>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  gap: 8px;
  align-items: center;
}
.small {
  font-size: 12px;
  margin: 0;
}
</style>
