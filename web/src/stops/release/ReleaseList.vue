<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import NameBox from '../../kit/NameBox.vue'
import { dayAndTime, moment } from '../../kit/moment'
import { useProject } from '../../rail/project'

/** The releases, newest first: compared, and run again. */
defineProps<{ releases: Schemas['ReleaseInfo'][]; may: boolean }>()
defineEmits<{ compare: [release: number]; again: [release: number, why: string] }>()
const project = useProject()
const withRecipes = ref(false)
</script>

<template>
  <div class="scroll">
    <table class="grid">
      <thead>
        <tr>
          <th>{{ $t('release.number') }}</th>
          <th>{{ $t('release.at') }}</th>
          <th>{{ $t('release.by') }}</th>
          <th>{{ $t('release.note') }}</th>
          <th>{{ $t('release.signed') }}</th>
          <th>{{ $t('release.hash') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="(r, i) in releases" :key="r.number">
          <td>
            <strong>{{ r.number }}</strong>
            <span v-if="!i" class="chip on run">{{ $t('release.running') }}</span>
            <span v-if="r.again" class="quiet run">{{ $t('release.is', { n: r.again }) }}</span>
          </td>
          <td class="mono">{{ moment(r.at, dayAndTime) }}</td>
          <td>{{ r.person }}</td>
          <td class="wide">{{ r.note }}</td>
          <td class="wide">{{ r.signed }}</td>
          <td class="mono quiet">{{ r.hash.slice(0, 12) }}</td>
          <td>
            <div class="acts">
              <button class="bare link" @click="$emit('compare', r.number)">
                {{ $t('changes.compare') }}
              </button>
              <NameBox
                v-if="may && i && r.hash !== releases[0]!.hash"
                :label="$t('release.again', { n: r.number })"
                :hint="$t('release.why')"
                @named="$emit('again', r.number, $event)" />
            </div>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="pad">
      <a :href="`/api/projects/${project.id}/archive?recipes=${withRecipes}`" download>
        {{ $t('release.archive') }}
      </a>
      <label class="with">
        <input v-model="withRecipes" type="checkbox" />
        {{ $t('release.archiveRecipes') }}
      </label>
    </p>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
}
.run {
  margin-left: 10px;
}
.wide {
  max-width: 260px;
  white-space: normal;
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
}
.link {
  color: var(--c-spruce);
}
.pad {
  padding: 0 16px;
}
.with {
  margin-left: 16px;
}
</style>
