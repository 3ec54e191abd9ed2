<script setup lang="ts">
import { str } from '../canvas/element'
import type { Item } from '../canvas/element'
import DialogBox from '../kit/DialogBox.vue'
import WindowFrame from '../kit/WindowFrame.vue'
import LinkDiagnosis from '../links/LinkDiagnosis.vue'
import PointCard from '../links/PointCard.vue'
import AskBox from './AskBox.vue'
import KeyPad from './KeyPad.vue'
import type { Acts } from './useActs'
import WindowLayer from './WindowLayer.vue'
import { shownOf, type useCommands } from './useCommands'
import type { Shown } from './useScene'

// What lies over the screens for something that a person asked of an element: its point
// card, the key pad, what is asked before a value goes, a choice, a device's diagnosis.
const props = defineProps<{
  project: string
  program: Shown
  acts: Acts
  commands: ReturnType<typeof useCommands>
}>()
const { entry, choosing, diagnosing, point } = props.acts
const { asking, problem, busy } = props.commands
const titleOf = (item: Item) => str(item.shown.caption) || item.element.name || item.element.tag?.path || ''
</script>

<template>
  <WindowLayer v-if="point?.element.tag" front>
    <WindowFrame :title="titleOf(point)" @close="point = undefined">
      <PointCard :id="point.element.tag.id" :project="project" :program="program" />
    </WindowFrame>
  </WindowLayer>
  <KeyPad
    v-if="entry"
    :title="titleOf(entry.item)"
    :tag="entry.item.element.tag"
    :old="shownOf(entry.item)"
    :problem="problem"
    :busy="busy"
    @enter="acts.enter"
    @close="entry = undefined" />
  <AskBox
    v-if="asking"
    :title="titleOf(asking.item)"
    :says="`${shownOf(asking.item)} → ${asking.says}`"
    :asks="asking.asks"
    :problem="problem"
    :busy="busy"
    @send="commands.answered"
    @close="asking = undefined" />
  <DialogBox v-if="choosing" :label="titleOf(choosing.item)" @close="choosing = undefined">
    <div class="choices">
      <button v-for="c in choosing.choices" :key="c.value" @click="acts.choose(c.value)">
        {{ c.title }}
      </button>
    </div>
  </DialogBox>
  <DialogBox v-if="diagnosing" :label="$t('devices.tab.diagnosis')" @close="diagnosing = undefined">
    <div class="diagnosis fingers">
      <LinkDiagnosis
        :project="project"
        :device="diagnosing.device"
        :part="diagnosing.part"
        :program="program === 'try' ? 'draft' : 'release'" />
      <button class="bare later" @click="diagnosing = undefined">{{ $t('notice.close') }}</button>
    </div>
  </DialogBox>
</template>

<style scoped>
.choices {
  display: grid;
  gap: 8px;
  width: 400px;
  padding: 22px 28px;
}
.choices button {
  min-height: 52px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 18px;
  cursor: pointer;
}
.diagnosis {
  width: min(900px, 92vw);
  padding: 22px 28px 0;
}
/* In reach of a finger however long the list is. */
.later {
  position: sticky;
  bottom: 0;
  width: 100%;
  min-height: 52px;
  border-top: 1px solid var(--c-line);
  background: var(--c-sheet);
  color: var(--c-spruce);
  font-weight: 650;
}
</style>
