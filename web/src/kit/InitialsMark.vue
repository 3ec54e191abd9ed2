<script setup lang="ts">
import { computed } from 'vue'

// The initials of a person, as a mark beside or in place of the name: a picture, and no
// text that anybody reads aloud.
const props = defineProps<{ name: string | undefined }>()
const initials = computed(() =>
  (props.name ?? '')
    .split(' ')
    .map((w) => w[0])
    .join('')
    .slice(0, 2),
)
</script>

<template>
  <span class="initials" :data-text="initials || '–'" aria-hidden="true" />
</template>

<style scoped>
.initials::before {
  content: attr(data-text);
}
</style>
