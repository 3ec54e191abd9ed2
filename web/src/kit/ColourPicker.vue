<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useCatalogue } from '../rail/catalogue'
import { useProject } from '../rail/project'
import { colour, light } from '../theme'
import { hexOf, mixedOf, type Mixed } from './hsl'
import TypedInput from './TypedInput.vue'

// A colour of the theme, which follows light and dark; one of the project's
// own; or one that is mixed here. Each with how much of it covers what lies
// below.
const props = defineProps<{ modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [colour: string] }>()
const project = useProject()
const catalogue = useCatalogue()
const { t } = useI18n()
const palette = computed(() => project.overview?.site.palette ?? [])
const named = computed(() => !props.modelValue.startsWith('#'))
const name = computed(() => props.modelValue.split(' ')[0]!)
const mixed = computed<Mixed>(
  () =>
    mixedOf(props.modelValue) ?? {
      ...(mixedOf(light[name.value as keyof typeof light] ?? '') ?? grey),
      share: share.value,
    },
)
const share = computed(() =>
  named.value
    ? Number(/ (\d+)%$/.exec(props.modelValue)?.[1] ?? 100)
    : (mixedOf(props.modelValue)?.share ?? 100),
)
const grey = { h: 210, s: 20, l: 50 }
const withShare = (base: string, n: number) =>
  base === 'none' || n >= 100 ? base : `${base} ${Math.max(1, n)}%`

const choose = (c: string) => emit('update:modelValue', withShare(c, share.value))
const mix = (next: Partial<Mixed>) => emit('update:modelValue', hexOf({ ...mixed.value, ...next }))
function cover(n: number) {
  if (named.value) emit('update:modelValue', withShare(name.value, n))
  else mix({ share: n })
}
function type(text: string) {
  const hex = text.trim().startsWith('#') ? text.trim() : '#' + text.trim()
  if (mixedOf(hex)) emit('update:modelValue', hex.toLowerCase())
}
const keep = () =>
  project.edit(t('colour.kept'), [
    { kind: 'site', id: 'site', path: '/palette', value: [...palette.value, props.modelValue] },
  ])
const number = (e: Event) => Number((e.target as HTMLInputElement).value)
const rails = computed(() => ({
  h: 'linear-gradient(90deg, #f00, #ff0, #0f0, #0ff, #00f, #f0f, #f00)',
  s: `linear-gradient(90deg, ${hexOf({ ...mixed.value, s: 0, share: 100 })}, ${hexOf({ ...mixed.value, s: 100, share: 100 })})`,
  l: `linear-gradient(90deg, #000, ${hexOf({ ...mixed.value, l: 50, share: 100 })}, #fff)`,
  share: `linear-gradient(90deg, transparent, ${colour(named.value ? name.value : hexOf({ ...mixed.value, share: 100 }))})`,
}))
</script>

<template>
  <div class="picker" role="group" :aria-label="$t('colour.pick')" @keydown.stop>
    <div class="swatches">
      <button
        v-for="c in catalogue.colours"
        :key="c"
        type="button"
        class="swatch"
        :class="{ on: name === c, none: c === 'none' }"
        :style="{ background: c === 'none' ? undefined : colour(c) }"
        :title="$t('colour.' + c)"
        :aria-label="$t('colour.' + c)"
        :aria-pressed="name === c"
        @click="choose(c)" />
    </div>
    <div v-if="palette.length" class="swatches">
      <button
        v-for="c in palette"
        :key="c"
        type="button"
        class="swatch"
        :class="{ on: modelValue === c }"
        :style="{ background: c }"
        :title="c"
        :aria-label="c"
        :aria-pressed="modelValue === c"
        @click="emit('update:modelValue', c)" />
    </div>
    <label
      v-for="[key, most] in [
        ['h', 360],
        ['s', 100],
        ['l', 100],
      ] as const"
      :key="key">
      <span>{{ $t($word('colour', key === 'h' ? 'hue' : key === 's' ? 'strength' : 'lightness')) }}</span>
      <input
        type="range"
        min="0"
        :max="most"
        :value="mixed[key]"
        :style="{ background: rails[key] }"
        @change="mix({ [key]: number($event) })" />
    </label>
    <label v-if="modelValue !== 'none'">
      <span>{{ $t('colour.covers', { n: share }) }}</span>
      <input
        type="range"
        min="1"
        max="100"
        :value="share"
        :style="{ background: rails.share }"
        @change="cover(number($event))" />
    </label>
    <div class="own">
      <TypedInput
        class="plain mono"
        :value="named ? '' : modelValue"
        placeholder="#4b6c9e"
        :aria-label="$t('colour.hex')"
        @change="type(($event.target as HTMLInputElement).value)" />
      <button v-if="!named && !palette.includes(modelValue)" type="button" class="chip" @click="keep">
        <v-icon :icon="mdiPlus" size="14" />
        {{ $t('colour.keep') }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.picker {
  display: grid;
  gap: 8px;
  padding: 10px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
  box-shadow: 0 6px 20px #0003;
}
.swatches {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
}
.swatch {
  width: 24px;
  height: 24px;
  border: 1px solid var(--c-quiet);
  border-radius: 3px;
  cursor: pointer;
  padding: 0;
}
.swatch.on {
  outline: 2px solid var(--c-spruce);
  outline-offset: 1px;
}
.swatch.none {
  background: linear-gradient(45deg, transparent 46%, var(--c-error) 46% 54%, transparent 54%);
}
label {
  display: grid;
  grid-template-columns: 92px 1fr;
  align-items: center;
  gap: 8px;
  font-size: 12px;
  color: var(--c-quiet);
}
input[type='range'] {
  appearance: none;
  height: 14px;
  min-height: 0;
  padding: 0;
  border: 1px solid var(--c-line);
  border-radius: 6px;
  min-width: 0;
  width: 100%;
}
input[type='range']::-webkit-slider-thumb {
  appearance: none;
  width: 12px;
  height: 20px;
  border: 2px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
}
input[type='range']::-moz-range-thumb {
  width: 8px;
  height: 16px;
  border: 2px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
}
.own {
  display: flex;
  gap: 6px;
}
.own input {
  width: 110px;
}
</style>
