<script setup lang="ts">
// Digits for a secret at a panel without a keyboard.
const secret = defineModel<string>({ required: true })
const KEYS = ['1', '2', '3', '4', '5', '6', '7', '8', '9', '0']
</script>

<template>
  <div class="digits" role="group" :aria-label="$t('ask.digits')">
    <button v-for="k in KEYS" :key="k" type="button" @click="secret += k">{{ k }}</button>
    <button type="button" class="erase" :aria-label="$t('sign.erase')" @click="secret = secret.slice(0, -1)">
      ⌫
    </button>
  </div>
</template>

<style scoped>
.digits {
  display: grid;
  grid-template-columns: repeat(12, minmax(0, 1fr));
  gap: 4px;
  margin-top: 8px;
}
@media (max-width: 520px), (min-height: 601px) {
  .digits {
    grid-template-columns: repeat(6, minmax(0, 1fr));
  }
}
button {
  min-height: 44px;
  padding: 0;
  font: inherit;
  font-size: 18px;
  font-weight: 600;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  cursor: pointer;
}
.erase {
  grid-column: span 2;
}
button:active {
  background: var(--c-tint);
}
</style>
