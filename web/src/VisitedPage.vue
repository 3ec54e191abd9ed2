<script setup lang="ts">
// Where a visit to the company's directory for a signature ends: in a window of its own,
// which the page that asked no longer needs.
const close = () => window.close()
close()
</script>

<template>
  <main class="visited">
    <p>{{ $t('directory.visited') }}</p>
    <v-btn variant="outlined" @click="close">{{ $t('directory.close') }}</v-btn>
  </main>
</template>

<style scoped>
.visited {
  max-width: 26em;
  margin: 15vh auto;
  padding: 0 20px;
  font-size: 18px;
}
</style>
