<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { api, ask, sentence } from '../api/client'
import { moment, toSecond } from '../kit/moment'
import type { TrailRecord } from './useTrailList'

/** All of one record, and what was said of it later: neither is ever changed. */
const props = defineProps<{ project: string; record: TrailRecord }>()
const comments = shallowRef<TrailRecord[]>([])
const text = ref('')
const problem = ref('')
const params = () => ({ path: { project: props.project, id: String(props.record.seq) } })
const aComment = () => props.record.what === 'comment'

async function load() {
  if (aComment()) return
  comments.value = await ask(
    api.GET('/api/projects/{project}/audit/{id}/comments', { params: params() }),
  ).catch(() => comments.value)
}
watch(() => props.record.seq, load, { immediate: true })
async function say() {
  try {
    await ask(
      api.POST('/api/projects/{project}/audit/{id}/comments', {
        params: params(),
        body: { text: text.value },
      }),
    )
    text.value = ''
    problem.value = ''
    await load()
  } catch (e) {
    problem.value = sentence(e)
  }
}
</script>

<template>
  <div class="details">
    <dl>
      <template v-if="record.screen">
        <dt>{{ $t('audit.screen') }}</dt>
        <dd>{{ [record.screen, record.element].filter(Boolean).join(' › ') }}</dd>
      </template>
      <template v-if="record.path">
        <dt>{{ $t(record.what === 'edit' ? 'audit.thing' : 'audit.tag') }}</dt>
        <dd class="mono">{{ record.path }}</dd>
      </template>
      <template v-if="record.what === 'edit'">
        <template v-if="record.old">
          <dt>{{ $t('audit.before') }}</dt>
          <dd class="mono">{{ record.old }}</dd>
        </template>
        <template v-if="record.new">
          <dt>{{ $t('audit.after') }}</dt>
          <dd class="mono">{{ record.new }}</dd>
        </template>
      </template>
      <template v-if="record.reason">
        <dt>{{ $t('audit.reason') }}</dt>
        <dd>{{ record.reason }}</dd>
      </template>
      <template v-if="record.sign">
        <dt>{{ $t('audit.signatures') }}</dt>
        <dd>{{ record.sign }}</dd>
      </template>
      <template v-if="record.captured">
        <dt>{{ $t('audit.captured') }}</dt>
        <dd class="mono">
          <div v-for="line in record.captured.split('; ')" :key="line">{{ line }}</div>
        </dd>
      </template>
      <template v-if="record.key">
        <dt>{{ $t('audit.command') }}</dt>
        <dd class="mono quiet">{{ record.key }}</dd>
      </template>
    </dl>
    <div v-if="!aComment()" class="comments">
      <strong>{{ $t('audit.comments') }}</strong>
      <p v-for="c in comments" :key="c.seq">
        <span class="quiet">{{ moment(c.atMs, toSecond) }} · {{ c.name }}</span>
        {{ c.reason }}
      </p>
      <form @submit.prevent="say">
        <input
          v-model="text"
          class="plain"
          :placeholder="$t('audit.comment')"
          :aria-label="$t('audit.comment')" />
        <button class="chip" :disabled="!text.trim()">{{ $t('audit.commented') }}</button>
      </form>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    </div>
  </div>
</template>

<style scoped>
.details {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 8px 24px;
  padding: 8px 12px 12px;
  white-space: normal;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 12px;
  margin: 0;
  align-content: start;
}
dt {
  color: var(--c-quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
p {
  margin: 4px 0;
  overflow-wrap: anywhere;
}
form {
  display: flex;
  gap: 8px;
  margin-top: 6px;
}
form input {
  flex: 1;
}
</style>
