<script setup lang="ts">
import type { Finding } from '../../api/client'
import { useWhere } from '../../rail/where'

// Each finding is a link to its place, with its mend.
defineProps<{ findings: Finding[] }>()
const { where, isPath } = useWhere()
</script>

<template>
  <div class="scroll">
    <div v-if="!findings.length" class="empty">
      <h2>{{ $t('findings.none') }}</h2>
      <p>{{ $t('findings.noneWhy') }}</p>
    </div>
    <table v-else class="grid">
      <thead>
        <tr>
          <th>{{ $t('findings.severity') }}</th>
          <th>{{ $t('findings.where') }}</th>
          <th>{{ $t('findings.says') }}</th>
          <th>{{ $t('findings.mend') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(f, i) in findings" :key="i">
          <td>
            <span class="sev" :class="f.severity">{{ $t($word('severity', f.severity)) }}</span>
          </td>
          <td>
            <router-link :to="where(f, f.stop)" :class="{ mono: isPath(f.kind) }">{{ f.name }}</router-link>
          </td>
          <td class="wrap">{{ f.says }}</td>
          <td class="wrap quiet">{{ f.mend }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  flex: 1;
}
.wrap {
  white-space: normal !important;
  padding: 6px 10px !important;
  max-width: 380px;
}
.sev {
  font-weight: 650;
}
.sev.error {
  color: var(--c-error);
}
.sev.warning {
  color: var(--c-warning);
}
.sev.note {
  color: var(--c-quiet);
}
</style>
