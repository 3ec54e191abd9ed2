<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { dayAndTime, moment } from '../../kit/moment'

// Sign-ins that failed, of the whole server: a run is one name from one place.
const runs = shallowRef<Schemas['FailedRun'][]>([])
const problem = ref('')
onMounted(async () => {
  try {
    runs.value = await ask(api.GET('/api/failed-sign-ins'))
  } catch (e) {
    problem.value = sentence(e)
  }
})
</script>

<template>
  <div>
    <h2>{{ $t('people.failed') }}</h2>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <p v-else-if="!runs.length" class="quiet">{{ $t('people.noneFailed') }}</p>
    <table v-else class="grid list">
      <thead>
        <tr>
          <th>{{ $t('people.login') }}</th>
          <th>{{ $t('people.place') }}</th>
          <th>{{ $t('people.times') }}</th>
          <th>{{ $t('people.lastFailed') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in runs" :key="r.name + r.place + r.first">
          <td class="mono">{{ r.name }}</td>
          <td class="mono">{{ r.place }}</td>
          <td class="mono">{{ r.count }}</td>
          <td>{{ moment(r.last, dayAndTime) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
h2 {
  margin-top: 28px;
}
.list {
  width: auto;
  min-width: 420px;
}
</style>
