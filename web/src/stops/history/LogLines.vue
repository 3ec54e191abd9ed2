<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import FieldText from '../../kit/FieldText.vue'
import TagField from '../../tags/TagField.vue'
import LogLine from './LogLine.vue'

// The lines by which a log names its tags: a tag, the member of every equipment
// of a type, or a pattern of paths.
type Line = Schemas['LogLine']
type Pick = Schemas['Pick']
const props = defineProps<{ lines: Line[] }>()
const emit = defineEmits<{ picks: [picks: Pick[]] }>()
const tag = ref('')
const pattern = ref('')

const picks = () => props.lines.map((l) => l.pick)
const put = (i: number, pick: Pick) => emit('picks', picks().with(i, pick))
const drop = (i: number) => emit('picks', picks().toSpliced(i, 1))
function add(pick: Pick) {
  tag.value = pattern.value = ''
  emit('picks', [...picks(), pick])
}
</script>

<template>
  <div class="lines">
    <LogLine v-for="(l, i) in lines" :key="l.text" :line="l" @every="put(i, $event)" @drop="drop(i)" />
    <div class="add">
      <TagField
        :label="$t('log.addTag')"
        :model-value="tag"
        @update:model-value="$event && add({ tag: $event })" />
      <FieldText
        :label="$t('log.addPattern')"
        :model-value="pattern"
        mono
        placeholder="Fan*.Speed"
        @update:model-value="$event.trim() && add({ like: $event.trim() })" />
    </div>
  </div>
</template>

<style scoped>
.add {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  margin-top: 8px;
}
</style>
