<script setup lang="ts">
import { mdiMonitor } from '@mdi/js'
import { ref } from 'vue'
import LimitBox from '../alarms/LimitBox.vue'
import TraceAround from '../alarms/TraceAround.vue'
import { type Act, type Board, type Standing, unseen } from '../alarms/useAlarms'
import { whatLedTo } from '../replay/where'

/**
 * What is known of one alarm and what can be done about it. What can be done stands
 * at the foot in places of its own, whatever the card above it learns and whatever
 * the alarm does meanwhile, so that no button goes from under a finger.
 */
defineProps<{ alarm: Standing; board: Board | undefined; project: string }>()
const emit = defineEmits<{ act: [what: Act, comment: boolean]; open: []; back: [] }>()
const limiting = ref(false)
const latched = (a: Standing) => a.state === 'latched-ack' || a.state === 'latched-unack'
</script>

<template>
  <aside class="detail">
    <div class="known">
      <button class="tap shut" :aria-label="$t('alarm.backToList')" @click="emit('back')">
        ‹ {{ $t('alarm.backToList') }}
      </button>
      <h2>{{ alarm.name }}</h2>
      <p class="mono">
        {{ alarm.path }}
        <strong>{{ alarm.value }}</strong>
        <template v-if="alarm.limit">{{ ` (${$t('alarm.limit')} ${alarm.limit})` }}</template>
      </p>
      <p v-if="alarm.points" class="quiet">{{ $t('alarm.stands', { n: alarm.points }) }}</p>
      <TraceAround
        v-if="alarm.tag"
        :project="project"
        :tag="alarm.tag"
        :at="Date.parse(alarm.raised ?? alarm.since)"
        :limit="alarm.limit" />
      <p>
        <a class="tap" :href="whatLedTo(project, Date.parse(alarm.raised ?? alarm.since), alarm.screen)">
          {{ $t('trend.before') }}
        </a>
      </p>
      <p v-if="alarm.reason" class="quiet">{{ alarm.by }}: {{ alarm.reason }}</p>
      <dl>
        <template v-for="g in ['cause', 'consequence', 'action'] as const" :key="g">
          <template v-if="alarm.guidance[g]">
            <dt>{{ $t($word('alarm.guidance', g)) }}</dt>
            <dd>{{ alarm.guidance[g] }}</dd>
          </template>
        </template>
        <template v-if="alarm.guidance.respond">
          <dt>{{ $t('alarm.guidance.respond') }}</dt>
          <dd>{{ $t('alarm.minutes', { n: alarm.guidance.respond }) }}</dd>
        </template>
      </dl>
    </div>
    <LimitBox v-if="limiting" :project="project" :alarm="alarm" @done="limiting = false" />
    <div class="acts">
      <template v-if="board?.mayAck">
        <button class="tap" :disabled="!unseen(alarm)" @click="emit('act', 'acknowledged', false)">
          {{ $t('alarm.act.acknowledged') }}
        </button>
        <button class="tap" :disabled="!unseen(alarm)" @click="emit('act', 'acknowledged', true)">
          {{ $t('alarm.ackComment') }}
        </button>
      </template>
      <template v-if="board?.mayShelve">
        <button v-if="alarm.state === 'shelved'" class="tap" @click="emit('act', 'unshelved', false)">
          {{ $t('alarm.act.unshelved') }}
        </button>
        <button
          v-else-if="alarm.longest"
          class="tap"
          :disabled="alarm.state === 'out-of-service'"
          @click="emit('act', 'shelved', false)">
          {{ $t('alarm.act.shelved') }}
        </button>
        <button v-if="alarm.state === 'out-of-service'" class="tap" @click="emit('act', 'in-service', false)">
          {{ $t('alarm.act.in-service') }}
        </button>
        <button v-else class="tap" @click="emit('act', 'removed', false)">
          {{ $t('alarm.act.removed') }}
        </button>
      </template>
      <button
        v-if="board?.mayLimit && alarm.setLimit"
        class="tap"
        :aria-expanded="limiting"
        @click="limiting = !limiting">
        {{ $t('alarm.changeLimit', { limit: alarm.setLimit }) }}
      </button>
      <button v-if="alarm.screen" class="tap" @click="emit('open')">
        <v-icon :icon="mdiMonitor" size="20" />
        {{ $t('alarm.openScreen') }}
      </button>
      <button v-if="board?.mayAck && latched(alarm)" class="tap" @click="emit('act', 'reset', false)">
        {{ $t('alarm.act.reset') }}
      </button>
    </div>
  </aside>
</template>

<style scoped>
.detail {
  width: 340px;
  flex: none;
  display: flex;
  flex-direction: column;
  border-left: 1px solid var(--c-line);
  background: var(--c-sheet);
}
.known {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 12px 16px;
}
h2 {
  font-size: 18px;
  margin: 0 0 4px;
}
dl {
  margin: 0;
}
dt {
  font-size: 13px;
  color: var(--c-quiet);
  margin-top: 8px;
}
dd {
  margin: 0;
}
.limit {
  flex: none;
  margin: 0;
  padding: 12px 16px;
  border-top: 1px solid var(--c-line);
}
.acts {
  flex: none;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(144px, 1fr));
  gap: 8px;
  padding: 12px 16px;
  border-top: 1px solid var(--c-line);
}
.acts .tap {
  padding: 4px 10px;
  font-size: 15px;
  line-height: 1.2;
  text-align: start;
}
.tap.shut {
  display: none;
}
@media (max-width: 1100px) {
  .detail {
    position: absolute;
    inset: 0 0 0 auto;
    width: min(420px, 100%);
    z-index: 2;
    box-shadow: -8px 0 24px #0003;
  }
  .tap.shut {
    display: inline-flex;
    margin-bottom: 8px;
  }
}
@media (max-width: 1100px) and (max-height: 600px) {
  .detail {
    width: 100%;
  }
}
</style>
